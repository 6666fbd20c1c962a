import type { TableView } from '@vast-knot/core';

/** A small table of towns and their zones, for tests. */
export const zones: TableView = {
  name: 'Zones',
  columns: [
    { name: 'town', label: 'Town', type: 'text', key: true },
    { name: 'zone', label: 'Zone', type: 'text', key: false },
  ],
  matching: 'exact',
  onMiss: 'stop',
  rows: [
    ['Northport', 'N1'],
    ['Murrow', 'S1'],
    ['Skerry', 'S2'],
  ],
  rowIds: [1, 2, 3],
  rowCount: 3,
  revision: 1,
  usedBy: [],
};
