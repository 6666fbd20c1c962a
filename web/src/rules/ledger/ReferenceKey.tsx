import { Checkbox, Select } from '@mantine/core';
import { leafFields, type Catalog, type Field, type ReferenceByKey } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';

interface ReferenceKeyProps {
  readonly definition: Field;
  readonly catalog: Catalog;
  readonly reference: ReferenceByKey | undefined;
  /** Undefined: the formula gives the id itself. */
  readonly onChange: (reference: ReferenceByKey | undefined) => void;
}

const onNone = { blank: 'leave it blank', keep: 'keep what is there', fail: 'fail the line' } as const;
const onSeveral = { fail: 'fail the line', first: 'take the first by id' } as const;

/** Whether a reference gets an id as it is, or the record whose field holds a value: “the contact whose full name is …”. */
export function ReferenceKey({ definition, catalog, reference, onChange }: ReferenceKeyProps) {
  const mayChange = useMay('rules.edit');
  const types = catalog.referred(definition);
  const type = types.find((each) => each.type.name === reference?.recordType)?.type ?? types[0]?.type;
  if (!type) return null;
  const start = (recordType = type): ReferenceByKey => ({
    recordType: recordType.name,
    field: recordType.nameField,
    none: 'fail',
    several: 'fail',
  });
  return (
    <div className="reference-key">
      <Checkbox
        size="xs"
        label={`The formula gives a name or another key, not the id of the ${type.label.toLowerCase()}`}
        checked={reference !== undefined}
        disabled={!mayChange}
        onChange={(event) => onChange(event.currentTarget.checked ? start() : undefined)}
      />
      {reference && (
        <div className="small">
          It is the{' '}
          {types.length > 1 ? (
            <Select
              aria-label="Type of the record that is meant"
              data={types.map((each) => ({ value: each.type.name, label: each.type.label }))}
              value={reference.recordType}
              disabled={!mayChange}
              onChange={(name) => onChange(start(types.find((each) => each.type.name === name)?.type))}
              w={130}
            />
          ) : (
            type.label.toLowerCase()
          )}{' '}
          whose
          <Select
            aria-label="Field that holds the key"
            data={leafFields(type.fields).map(({ path, label }) => ({ value: path, label }))}
            value={reference.field}
            disabled={!mayChange}
            searchable
            onChange={(field) => field !== null && onChange({ ...reference, field })}
            w={150}
          />
          is what the formula gives. When there is none,
          <Select
            aria-label="When no record has the key"
            data={Object.entries(onNone).map(([value, label]) => ({ value, label }))}
            value={reference.none}
            disabled={!mayChange}
            onChange={(none) => onChange({ ...reference, none: none as ReferenceByKey['none'] })}
            w={150}
          />
          when there are several,
          <Select
            aria-label="When several records have the key"
            data={Object.entries(onSeveral).map(([value, label]) => ({ value, label }))}
            value={reference.several}
            disabled={!mayChange}
            onChange={(several) => onChange({ ...reference, several: several as ReferenceByKey['several'] })}
            w={150}
          />
        </div>
      )}
    </div>
  );
}
