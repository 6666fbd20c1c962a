import { Catalog } from '@vast-knot/core';
import { bookSystem } from '../fixtures/harbour';
import { MemorySystem } from '../fixtures/memorySystem';
import { ConnectedWorkspace } from './connectedWorkspace';
import type { Registry } from './registry';

/** A workspace over one system, whose searches are counted. */
function workspaceOf() {
  const book = new MemorySystem(bookSystem, { company: [{ id: 'C1', name: 'Slate' }] });
  const find = jest.spyOn(book, 'find');
  const registry = {
    catalog: new Catalog([bookSystem]),
    connectors: new Map([['book', book.connector]]),
    stores: new Map([['book', book]]),
  } as unknown as Registry;
  return { book, find, workspace: new ConnectedWorkspace(registry) };
}

const all = { system: 'book', recordType: 'company', conditions: [] };

test('what is only looked through for what was near is read once in a while; what is used is read each time', async () => {
  const { find, workspace } = workspaceOf();
  for (let times = 0; times < 3; times++) {
    const near = await workspace.find({ ...all, peek: 1000, hint: true });
    expect(near.map(({ ref }) => ref.id)).toEqual(['C1']);
  }
  expect(find).toHaveBeenCalledTimes(1);
  await workspace.find({ ...all, peek: 1000 });
  await workspace.find({ ...all, conditions: [{ field: 'name', values: ['Slate'] }] });
  expect(find).toHaveBeenCalledTimes(3);
});

test('a look that failed is made again', async () => {
  const { book, workspace } = workspaceOf();
  book.away = true;
  await expect(workspace.find({ ...all, peek: 1000, hint: true })).rejects.toThrow('away');
  book.away = false;
  expect(await workspace.find({ ...all, peek: 1000, hint: true })).toHaveLength(1);
});
