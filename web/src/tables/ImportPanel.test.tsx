import { screen, waitFor, within } from '@testing-library/react';
import type { ImportPreview } from '@vast-knot/core';
import { FakeResponse, FakeServer, show } from '../testing/app';
import { ImportPanel } from './ImportPanel';
import { zones } from './testTable';

const table = { ...zones, revision: 4 };
const preview: ImportPreview = {
  revision: 4,
  added: [['Skerry', 'S2']],
  changed: [{ before: ['Northport', 'N1'], after: ['Northport', 'N9'] }],
  removed: [['Murrow', 'S1']],
  counts: { added: 1, changed: 1, removed: 1, same: 0 },
};
const file = { name: 'zones.csv', text: 'Town,Zone\nNorthport,N9\nSkerry,S2\n' };

function open(answers: Record<string, unknown> = {}) {
  const server = new FakeServer({
    'POST /tables/Zones/csv/preview': preview,
    'POST /tables/Zones/csv': {},
    ...answers,
  });
  const closed = jest.fn();
  return { server, closed, ...show(<ImportPanel table={table} file={file} onClose={closed} />) };
}

test('what a file would do is shown row by row before anything is done', async () => {
  const { server } = open();
  const rows = within(await screen.findByRole('table', { name: 'What the file changes' })).getAllByRole(
    'row',
  );
  expect(rows.map(({ textContent }) => textContent)).toEqual([
    'TownZone',
    'changedNorthportN1→N9',
    'addedSkerryS2',
  ]);
  expect(screen.getByText(/1 row added, 1 changed, 0 the same/)).toBeTruthy();
  expect(server.of('POST', '/tables/Zones/csv')).toEqual([]);
});

test('rows that are not in the file stay, unless one says otherwise and sees them', async () => {
  const { server, user, closed } = open();
  await user.click(await screen.findByRole('checkbox', { name: 'Remove the rows that are not in the file' }));
  expect(screen.getByText('removed').closest('tr')?.textContent).toBe('removedMurrowS1');
  await user.click(screen.getByRole('button', { name: 'Apply' }));
  await waitFor(() => expect(closed).toHaveBeenCalledTimes(1));
  const [applied] = server.of('POST', '/tables/Zones/csv');
  expect([applied?.ifMatch, applied?.body]).toEqual(['"4"', file.text]);
});

test('every mistake of a file is listed with its row, and nothing can be applied', async () => {
  const errors = [
    { field: 'row 2', message: 'Row 2, Zone: “N99” is too long.' },
    { field: 'row 3', message: 'Row 3: the key “Skerry” is there twice.' },
  ];
  open({
    'POST /tables/Zones/csv/preview': new FakeResponse(422, {
      status: 422,
      title: 'Not valid',
      detail: 'The file has mistakes.',
      errors,
    }),
  });
  const alert = await screen.findByRole('alert');
  expect(alert.textContent).toContain('Nothing is imported: the file has to be mended first.');
  expect(
    within(alert)
      .getAllByRole('listitem')
      .map(({ textContent }) => textContent),
  ).toEqual(errors.map(({ message }) => message));
  expect(screen.queryByRole('button', { name: 'Apply' })).toBeNull();
});

test('a table that moved on in between is told of, and the panel stays', async () => {
  const detail = 'The table was changed in between; look at it again.';
  const { user, closed } = open({
    'POST /tables/Zones/csv': new FakeResponse(412, { status: 412, title: 'Changed in between', detail }),
  });
  await user.click(await screen.findByRole('button', { name: 'Apply' }));
  expect((await screen.findByRole('alert')).textContent).toContain(detail);
  expect(closed).not.toHaveBeenCalled();
});
