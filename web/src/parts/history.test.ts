import fc from 'fast-check';
import { begun, changedTo, mostSteps, stepBack, stepForth, type History } from './history';

const typed = (...texts: string[]) => texts.reduce((known, text) => changedTo(known, text), begun(''));

test('what was changed is taken back step by step, and done again', () => {
  const all = typed('a', 'ab', 'abc');
  const back = stepBack(stepBack(all));
  expect(back.now).toBe('a');
  expect(stepForth(back).now).toBe('ab');
  expect(stepForth(stepForth(back))).toEqual(all);
});

test('before the first and after the last step nothing happens', () => {
  const untouched = begun('x');
  expect(stepBack(untouched)).toEqual(untouched);
  expect(stepForth(typed('a'))).toEqual(typed('a'));
});

test('a change after taking back leaves nothing to do again', () => {
  expect(stepForth(changedTo(stepBack(typed('a', 'ab')), 'x')).now).toBe('x');
});

test('a change to the same state is none', () => {
  const known = typed('a');
  expect(changedTo(known, 'a')).toBe(known);
});

test('keystrokes in one part that follow each other quickly are one step, a pause or another part begins a new one', () => {
  const steps: [text: string, at: number, part: string][] = [
    ['U', 0, 'zone'],
    ['UP', 300, 'zone'],
    ['UPP', 900, 'zone'],
    ['UPP!', 2500, 'zone'],
    ['UPP!?', 2600, 'town'],
  ];
  const all = steps.reduce<History<string>>(
    (known, [text, at, part]) => changedTo(known, text, at, part),
    begun(''),
  );
  expect([all.now, ...all.past].sort()).toEqual(['', 'UPP', 'UPP!', 'UPP!?']);
});

test('only so many steps are kept, the latest ones', () => {
  const long = typed(...Array.from({ length: mostSteps + 50 }, (_none, at) => `state ${at}`));
  expect(long.past).toHaveLength(mostSteps);
  expect(long.past[0]).toBe('state 49');
});

test('any walk back and forth ends where it began', () => {
  fc.assert(
    fc.property(fc.array(fc.string(), { minLength: 1, maxLength: 30 }), fc.nat(30), (texts, steps) => {
      const all = typed(...texts);
      const taken = Math.min(steps, all.past.length);
      let walked = all;
      for (let at = 0; at < taken; at++) walked = stepBack(walked);
      for (let at = 0; at < taken; at++) walked = stepForth(walked);
      expect(walked.now).toBe(all.now);
      expect(walked.past).toEqual(all.past);
    }),
  );
});
