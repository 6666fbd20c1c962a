import { screen, waitFor, within } from '@testing-library/react';
import { formulaFunctions } from '@vast-knot/core';
import { surroundings, ruleWith } from '../work/testWorld';
import { FakeServer, openApp, viewOf, worldAnswers } from '../testing/app';
import { helpAt } from './places';
import members from './ruleMembers.json';
import { tryFormula } from './tryFormula';

const now = '2026-03-09T22:30:00Z';

test('every place tells what it is for, what to do first, and the keys that work there and everywhere', () => {
  const addresses =
    '/today /systems /systems/connect /records /tables/Zones /rules /rules/r /rules/r/versions /bench /bench/new /failures /messages /reconcile/1 /runs/7 /values /addresses /telling /me /reference'.split(
      ' ',
    );
  const titles = addresses.map((address) => helpAt(address).title);
  expect(titles).not.toContain('Vast Knot');
  expect(helpAt('/rules/r').title).toBe('The rule sheet');
  expect(helpAt('/rules/r/versions').title).toBe('Versions of a rule');
  for (const address of addresses) {
    const { about, first, keys } = helpAt(address);
    expect([address, about.length > 40, first.length > 20]).toEqual([address, true, true]);
    expect(keys.map(([pressed]) => pressed)).toEqual(expect.arrayContaining(['Ctrl+K', '?']));
  }
  expect(helpAt('/elsewhere').title).toBe('Vast Knot');
});

test('? opens it, closes it, and is a letter where text is typed', async () => {
  new FakeServer(worldAnswers(viewOf(ruleWith([])), []));
  const { user } = openApp('/reference?search=tri');
  const search = await screen.findByRole('textbox', { name: 'Search the reference' }, { timeout: 10_000 });
  await user.type(search, '?');
  expect(screen.queryByRole('dialog', { name: 'About: Reference' })).toBeNull();
  search.blur();
  await user.keyboard('?');
  const about = await screen.findByRole('dialog', { name: 'About: Reference' });
  expect(within(about).getByRole('row', { name: /^Ctrl\+K find anything/ })).toBeTruthy();
  await user.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryByRole('dialog', { name: 'About: Reference' })).toBeNull());
});

test('functions are searched by name and meaning, and an example that is pressed is tried and can be changed', async () => {
  new FakeServer(worldAnswers(viewOf(ruleWith([])), []));
  const { user } = openApp('/reference?search=capital%20letters');
  const upper = await screen.findByRole('region', { name: 'UPPER' }, { timeout: 10_000 });
  expect(screen.queryByRole('region', { name: 'ROUND' })).toBeNull();
  await user.click(within(upper).getAllByTitle('Try it')[0] as HTMLElement);
  const field = screen.getByRole('textbox', { name: 'Try one' });
  await user.clear(field);
  await user.type(field, 'UPPER("quay") & TABLE("Zones", "Murrow", "zone")');
  await waitFor(() =>
    expect(screen.getByRole('status', { name: 'What it gives' }).textContent).toBe('QUAYS1'),
  );
  await user.type(field, ' &');
  await waitFor(() =>
    expect(screen.getByRole('status', { name: 'What it gives' }).querySelector('.wrong')).toBeTruthy(),
  );
});

test('the parts of a rule, the findings and the words are there and searched', async () => {
  new FakeServer(worldAnswers(viewOf(ruleWith([])), []));
  const { user } = openApp('/reference/rules?search=watched');
  expect(await screen.findByText('trigger.watched', {}, { timeout: 10_000 })).toBeTruthy();
  expect(members.length).toBeGreaterThan(40);
  await user.click(screen.getByText('Findings'));
  expect(await screen.findByRole('columnheader', { name: 'What it is about' })).toBeTruthy();
  expect(window.location.search).toBe('?search=watched');
  await user.click(screen.getByText('Words'));
  expect(await screen.findByText('Only a change of one of these starts the rule.')).toBeTruthy();
});

test('what the examples of functions give here is what they say', () => {
  for (const { name, examples } of formulaFunctions)
    for (const { formula, gives } of examples) {
      const given = tryFormula(formula, surroundings.tables, now);
      // Those that read a record or a table of their own tell so and show what they are said to give.
      if ('error' in given) continue;
      const said = tryFormula(gives === 'blank' ? 'COALESCE("")' : gives, surroundings.tables, now);
      expect([name, formula, given]).toEqual([name, formula, said]);
    }
});
