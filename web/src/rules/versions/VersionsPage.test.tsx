import { notifications } from '@mantine/notifications';
import { screen, waitFor, within } from '@testing-library/react';
import type { RuleBody, RuleHistory, RuleView } from '@vast-knot/core';
import { FakeServer, openApp, viewOf, worldAnswers, type Asked } from '../../testing/app';
import { line, ruleWith, sample } from '../../work/testWorld';

const { draft: first, ...base } = viewOf(ruleWith([line('name', 'UPPER(name)')]));
const { draft: second } = viewOf(ruleWith([line('name', 'LOWER(name)')]));
const version = (number: number, body: RuleBody, note: string) => ({
  version: number,
  body,
  by: 'Ines',
  at: `2026-03-0${number}T10:00:00Z`,
  note,
});
const history: RuleHistory = {
  versions: [version(2, second, 'The desk wants small letters.'), version(1, first, '')],
  stops: [{ version: 1, by: 'Oda', at: '2026-03-01T18:00:00Z', why: 'Over night.' }],
};
const rule: RuleView = { ...base, draft: second, revision: 7, published: version(2, second, '') };

function open(path = '/rules/r/versions', view: RuleView = rule) {
  const server = new FakeServer({
    ...worldAnswers(view, [sample]),
    'GET /rules/r/versions': history,
    'PUT /rules/r/draft': ({ body }: Asked) => ({ ...view, draft: body as RuleBody, revision: 8 }),
  });
  return { server, ...openApp(path) };
}

afterEach(() => notifications.clean());

const rows = async () =>
  (await screen.findAllByRole('row')).map((row) =>
    within(row)
      .queryAllByRole('cell')
      .map(({ textContent }) => textContent),
  );

test('a version is shown beside the one before, line by line, with author, note and why it was stopped', async () => {
  open();
  expect(
    await screen.findByText('The desk wants small letters.', undefined, { timeout: 10_000 }),
  ).toBeTruthy();
  expect(screen.getByText('Over night.')).toBeTruthy();
  expect(await rows()).toContainEqual(['name formula', 'UPPER(name)', 'LOWER(name)']);
  await screen.findByText(/Of 1 sample/, undefined, { timeout: 10_000 });
});

test('an earlier version becomes the draft with the revision at hand, and that is taken back by one press', async () => {
  const { server, user } = open();
  await user.click(await screen.findByRole('button', { name: 'Make it the draft' }, { timeout: 10_000 }));
  await screen.findByText(/is version 1 now/);
  expect(server.of('PUT', '/rules/r/draft')[0]).toMatchObject({ body: first, ifMatch: '"7"' });
  await user.click(screen.getByRole('button', { name: 'Undo' }));
  await waitFor(() => expect(server.of('PUT', '/rules/r/draft')).toHaveLength(2));
  expect(server.of('PUT', '/rules/r/draft')[1]).toMatchObject({ body: second, ifMatch: '"8"' });
});

test('which two are compared stands in the address', async () => {
  open('/rules/r/versions?one=2&other=1');
  await waitFor(
    async () => expect(await rows()).toContainEqual(['name formula', 'LOWER(name)', 'UPPER(name)']),
    {
      timeout: 10_000,
    },
  );
});
