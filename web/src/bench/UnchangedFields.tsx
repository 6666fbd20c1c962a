import { useState } from 'react';
import { leafFields, readPath, type JsonObject, type RecordType } from '@vast-knot/core';
import { count } from '../parts/time';
import { FieldValue } from '../parts/FieldValue';

interface UnchangedFieldsProps {
  readonly type: RecordType;
  readonly record: JsonObject;
  /** Paths that are shown already. */
  readonly shown: readonly string[];
}

/** The fields of a record that stay as they are, folded away until somebody wants to see them. */
export function UnchangedFields({ type, record, shown }: UnchangedFieldsProps) {
  const [open, setOpen] = useState(false);
  const others = leafFields(type.fields).filter(
    ({ path }) => !shown.includes(path) && readPath(record, path) !== undefined,
  );
  if (others.length === 0) return null;
  return (
    <>
      <button
        type="button"
        className="plain small unchanged-toggle"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {open
          ? 'Hide what stays as it is'
          : count(others.length, 'field stays as it is', 'fields stay as they are')}
      </button>
      {open && (
        <table className="grid" aria-label="Fields that stay as they are">
          <tbody>
            {others.map(({ path, label, field }) => (
              <tr key={path}>
                <td className="of26">{label}</td>
                <td>
                  <FieldValue field={field} label={label} json={readPath(record, path)} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
