import { known as world, line, party, ruleWith, sample } from '../../work/testWorld';
import { aboutValue } from './useAboutValue';

const body = ruleWith([line('name', 'name')]);
const { systems } = world;
const reach = {
  workspace: undefined,
  reach: {
    report: { rule: 'r', ruleName: '', version: 0, depth: 0, verdict: 'writes', because: '', steps: [] },
    targets: new Map([
      [
        0,
        [
          {
            env: { found: { party: party('P1', 'C1', { zone: 'N1' }).record } },
            target: party('P1', 'C1', {}),
          },
        ],
      ],
    ]),
  },
};
const known = {
  body,
  sample,
  systems: systems.map((system) => ({ ...system, connection: null })),
  reach,
} as never;

test('a field of the triggering record tells where it comes from and what the sample has', () => {
  expect(aboutValue(['town'], known)).toEqual({ from: 'company in Book', now: 'Murrow' });
  expect(aboutValue(['record', 'town'], known)).toEqual({ from: 'company in Book', now: 'Murrow' });
  expect(aboutValue(['before', 'town'], known)).toEqual({
    from: 'company in Book, before the change',
    now: 'Northport',
  });
  expect(aboutValue(['number'], known)?.now).toBe('blank');
});

test('a field of a found record tells under which name it is found, and what was found', () => {
  expect(aboutValue(['party', 'zone'], known)).toEqual({ from: 'party in Desk, found as party', now: 'N1' });
});

test('without a sample there is no value to tell, and names of other things tell nothing', () => {
  const without = {
    ...(known as object),
    sample: undefined,
    reach: { reach: undefined, workspace: undefined },
  } as never;
  expect(aboutValue(['town'], without)).toEqual({ from: 'company in Book' });
  expect(aboutValue(['event', 'time'], known)).toBeUndefined();
});
