import { screen, within } from '@testing-library/react';
import type { ValueSearch } from '@vast-knot/core';
import { FakeResponse, FakeServer, openApp, viewOf, worldAnswers } from '../testing/app';
import { ruleWith } from '../work/testWorld';

const found: ValueSearch = {
  places: [
    {
      ref: { system: 'book', recordType: 'company', id: 'C1' },
      name: 'Fish',
      path: 'town',
      value: 'Murrow',
      match: 'exact',
    },
    {
      ref: { system: 'desk', recordType: 'party', id: 'P1' },
      name: 'P1',
      path: 'zone',
      value: 'MURROW',
      match: 'normalised',
    },
  ],
  looked: 1240,
  notes: ['desk does not answer; its people were not looked through.'],
};

function open(at: string, answer: unknown) {
  const server = new FakeServer({
    ...worldAnswers(viewOf(ruleWith([])), []),
    'GET /values': answer,
  });
  return { server, ...openApp(at) };
}

test('each place of a value is told with its record and field, and whether it is written another way', async () => {
  open('/values?text=Murrow', found);
  await screen.findByText('BK');
  const [, first, second] = screen.getAllByRole('row');
  if (!first || !second) throw new Error('two rows were expected');
  expect(first.textContent).toBe('BK company C1 FishtownMurrowas it stands');
  expect(within(first).getByRole('link').getAttribute('href')).toBe('/records?left=book/company/C1');
  expect(second.textContent).toBe('DK party P1 zoneMURROWwritten another way');
  expect(screen.getByText('2 fields found in 1,240 records.')).toBeTruthy();
  expect(screen.getByText(/were not looked through/)).toBeTruthy();
});

test('nothing is looked for before something is asked', async () => {
  const { server, user } = open('/values', { places: [], looked: 9, notes: [] });
  const button = await screen.findByRole<HTMLButtonElement>('button', { name: 'Look in every system' });
  expect(button.disabled).toBe(true);
  expect(server.of('GET', '/values')).toEqual([]);
  await user.type(screen.getByLabelText('Value'), 'Kelpwick{Enter}');
  expect(await screen.findByText('0 fields found in 9 records.')).toBeTruthy();
  expect(screen.queryByRole('table')).toBeNull();
});

test('a search that fails says why and can be tried again', async () => {
  const detail = 'The search was too long; look for less.';
  const { server, user } = open(
    '/values?text=x',
    new FakeResponse(422, { status: 422, title: 'Not valid', detail }),
  );
  expect(await screen.findByText(detail)).toBeTruthy();
  server.answer({ 'GET /values': found });
  await user.click(screen.getByRole('button', { name: 'Try again' }));
  expect(await screen.findByText('Murrow')).toBeTruthy();
});
