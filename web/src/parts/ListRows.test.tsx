import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { Field, Json } from '@vast-knot/core';
import { FakeServer, show } from '../testing/app';
import { ListBlocks, ListRows } from './ListRows';

const lines: Field = {
  name: 'lines',
  label: 'Cargo lines',
  type: 'list',
  keyField: 'no',
  fields: [
    { name: 'no', label: 'Line', type: 'integer' },
    { name: 'goods', label: 'Goods', type: 'text' },
    { name: 'kg', label: 'Weight in kg', type: 'decimal' },
    { name: 'seal', label: 'Seal', type: 'text' },
  ],
};
const nets = { no: 1, goods: 'Nets', kg: 120 };
const rope = { no: 2, goods: 'Rope', kg: 40 };
const salt = { no: 3, goods: 'Salt', kg: 900 };

beforeEach(() => new FakeServer());

/** The rows below the heads, each as its words. */
const rows = () =>
  screen
    .getAllByRole('row')
    .slice(1)
    .map((row) =>
      within(row)
        .getAllByRole('cell')
        .map(({ textContent }) => textContent),
    );

const heads = () => screen.getAllByRole('columnheader').map(({ textContent }) => textContent);

test('a list has a column for each field that an element holds, in the order of the schema', () => {
  show(<ListRows field={lines} label="Cargo lines" json={[nets, { ...rope, mark: 'R' }]} />);
  expect(heads()).toEqual(['Line', 'Goods', 'Weight in kg', 'mark']);
  expect(rows()).toEqual([
    ['1', 'Nets', '120', ''],
    ['2', 'Rope', '40', 'R'],
  ]);
});

test('of a change, elements that came, went or hold something else come first and say so in words', () => {
  const before: Json = [nets, rope, salt];
  const after: Json = [salt, { ...nets, kg: '121.0' }, { no: 4, goods: 'Slate' }];
  show(<ListRows field={lines} label="Cargo lines" before={before} json={after} />);
  expect(rows()).toEqual([
    ['→changed', '1', 'Nets', '120→121.0'],
    ['+added', '4', 'Slate', ''],
    ['−taken away', '2', 'Rope', '40'],
    ['stays', '3', 'Salt', '900'],
  ]);
});

test('what is told another way, or stands in another order, is no change', () => {
  show(
    <ListRows
      field={lines}
      label="Cargo lines"
      before={[nets, rope]}
      json={[rope, { ...nets, no: '1', kg: '120.0' }]}
    />,
  );
  expect(rows().map(([what]) => what)).toEqual(['stays', 'stays']);
});

test('of many elements some are shown, and all when they are asked for', async () => {
  const many = Array.from({ length: 40 }, (_none, at) => ({ no: at + 1, goods: `G${at}` }));
  show(<ListRows field={lines} label="Cargo lines" json={many} />);
  expect(rows()).toHaveLength(12);
  await userEvent.click(screen.getByRole('button', { name: 'Show all 40 elements' }));
  expect(rows()).toHaveLength(40);
});

test('in a narrow place an element is a line, and what changed of it stands below by name', () => {
  show(
    <ListBlocks
      field={lines}
      label="Cargo lines"
      before={[nets, rope]}
      json={[{ ...nets, seal: 'S1' }, rope, salt]}
      nameOf={(name) => <button type="button">{`Use ${name}`}</button>}
    />,
  );
  const items = screen.getAllByRole('listitem').map(({ textContent }) => textContent);
  expect(items[0]).toMatch(/changed1Nets120.*seal blank→S1/);
  expect(items[1]).toMatch(/added3Salt900/);
  expect(items[2]).toMatch(/stays2Rope40/);
  expect(screen.getAllByRole('button').map(({ textContent }) => textContent)).toEqual([
    'Use no',
    'Use goods',
    'Use kg',
    'Use seal',
  ]);
});
