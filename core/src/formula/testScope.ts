import { TableIndex } from '../table/tableIndex';
import { taggedFile } from '../formats/files/taggedFile';
import type { Field } from '../model/system';
import { eventInstant } from './names';
import type { Env, Scope } from './scope';

const fields: readonly Field[] = [
  { name: 'name', label: 'Name', type: 'text' },
  { name: 'phone', label: 'Phone', type: 'text' },
  { name: 'credit', label: 'Credit', type: 'decimal' },
  { name: 'crates', label: 'Crates', type: 'integer' },
  { name: 'since', label: 'Since', type: 'date' },
  { name: 'seen', label: 'Seen', type: 'datetime' },
  {
    name: 'status',
    label: 'Status',
    type: 'choice',
    options: [
      { value: 'open', label: 'Open' },
      { value: 'closed', label: 'Closed' },
    ],
  },
  {
    name: 'address',
    label: 'Address',
    type: 'object',
    fields: [
      { name: 'town', label: 'Town', type: 'text' },
      { name: 'country', label: 'Country', type: 'text' },
    ],
  },
  { name: 'Home Port', label: 'Home port', type: 'text' },
];

/** Names for tests of the language and for the examples of its functions. */
export const exampleScope: Scope = {
  record: fields,
  target: [{ name: 'note', label: 'Note', type: 'text' }],
  found: new Map([['party', [{ name: 'id', label: 'Id', type: 'text' }]]]),
  tables: new Map([
    [
      'Ports to tariff zones',
      new TableIndex({
        name: 'Ports to tariff zones',
        columns: [
          { name: 'port', label: 'Port', type: 'text', key: true },
          { name: 'zone', label: 'Zone', type: 'text', key: false },
        ],
        rows: [['NOR', 'N2']],
        matching: 'caseless',
        onMiss: 'blank',
      }),
    ],
  ]),
  places: taggedFile.address,
};

export const exampleEnv: Env = {
  record: {
    name: 'North Skerry Fish',
    phone: '01632 960 120',
    credit: 0.1,
    crates: 12,
    since: '2024-02-29',
    seen: '2026-03-09T23:30:00+01:00',
    status: 'open',
    address: { town: 'Northport', country: 'GB' },
    'Home Port': 'NOR',
  },
  before: { name: 'North Skerry Fish', phone: '01632 960 119' },
  target: { note: 'call first' },
  found: { party: { id: 'P-7' } },
  row: {
    leader: '',
    fields: [
      { tag: '954', indicators: '1 ', subfields: [['c', '12.50']] },
      { tag: '954', indicators: '2 ', subfields: [['c', '11.90']] },
    ],
  },
  changed: new Set(['phone']),
  event: { kind: 'updated', id: 'e-1', source: '/customer-book', time: eventInstant('2026-03-09T22:30:00Z') },
};
