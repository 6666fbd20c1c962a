import type { JsonObject } from './json';
import type { RecordRef } from './record';
import type { Field, System } from './system';

/** The system of Vast Knot itself: what it remembers stands beside what others hold. */
export const ownSystem = 'vast-knot';
export const counterpartType = 'counterpart';

const text = (name: string, label: string): Field => ({
  name,
  label,
  type: 'text',
  required: true,
  maxLength: 200,
});

/**
 * The record types that Vast Knot keeps itself. A counterpart is a pair of records in two systems that are the same thing;
 * it is read, found, written and undone as any other record.
 */
export const ownDefinition: System = {
  key: ownSystem,
  tag: 'VK',
  name: 'Vast Knot',
  hue: 300,
  recordTypes: [
    {
      name: counterpartType,
      label: 'Counterpart',
      plural: 'Counterparts',
      idField: 'id',
      nameField: 'a_id',
      fields: [
        { name: 'id', label: 'Number', type: 'text', readOnly: true },
        text('a_id', 'Record'),
        text('b_id', 'Its counterpart'),
        text('b_type', 'Record type of the counterpart'),
        text('b_system', 'System of the counterpart'),
        text('a_type', 'Record type'),
        text('a_system', 'System'),
      ],
    },
  ],
};

/** Returns a pair as a record. */
export function pairRecord(id: string, a: RecordRef, b: RecordRef): JsonObject {
  return {
    id,
    a_system: a.system,
    a_type: a.recordType,
    a_id: a.id,
    b_system: b.system,
    b_type: b.recordType,
    b_id: b.id,
  };
}
