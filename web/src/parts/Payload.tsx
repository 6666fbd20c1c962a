import { useState, type ReactNode } from 'react';
import {
  isBlankJson,
  leafFields,
  readPath,
  type ChangeEvent,
  type Field,
  type RecordType,
} from '@vast-knot/core';
import { isRows, ListBlocks } from './ListRows';
import { count } from './time';
import { Change, Value } from './Value';

function plainName(path: string, shown = path): ReactNode {
  return <span className="mono">{shown}</span>;
}

interface PayloadProps {
  readonly type: RecordType | undefined;
  readonly event: ChangeEvent;
  /** How the name of a field is shown, where it is more than read; of a field in a list, its own name without that of the list. */
  readonly nameOf?: (path: string, shown?: string) => ReactNode;
}

/** The record of an event, field by field, with the changed ones marked. */
export function Payload({ type, event, nameOf = plainName }: PayloadProps) {
  const [blanksShown, setBlanksShown] = useState(false);
  const all = leafFields(type?.fields ?? []).filter(({ field }) => !field.keptBySystem);
  const isBlank = (path: string) => isBlankJson(readPath(event.record, path)) && !isChanged(path, event);
  const blanks = all.filter(({ path }) => isBlank(path));
  const held = all.filter(({ path }) => !isBlank(path));
  const leaves = blanksShown ? [...held, ...blanks] : held;
  return (
    <table className="payload">
      <tbody>
        {leaves.map(({ path, label, field }) =>
          isRows(readPath(event.record, path)) || isRows(readPath(event.before, path)) ? (
            <tr key={path}>
              <td className="whole" colSpan={2}>
                <div className="name">
                  {nameOf(path)} <Label label={label} path={path} />
                </div>
                <HeldList event={event} path={path} field={field} label={label} nameOf={nameOf} />
              </td>
            </tr>
          ) : (
            <tr key={path}>
              <td className="name">
                {nameOf(path)}
                <Label label={label} path={path} />
              </td>
              <td>
                <Held event={event} path={path} field={field} />
              </td>
            </tr>
          ),
        )}
        {blanks.length > 0 && (
          <tr>
            <td colSpan={2}>
              <button
                type="button"
                className="plain small"
                aria-expanded={blanksShown}
                onClick={() => setBlanksShown(!blanksShown)}
              >
                {blanksShown ? 'Hide' : 'Show'} {count(blanks.length, 'blank field')}
              </button>
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

/** The label of a field below its name, where it says more than that. */
function Label({ label, path }: { readonly label: string; readonly path: string }) {
  const bare = (text: string) => text.replaceAll(/[^\p{L}\p{N}]/gu, '').toLowerCase();
  return bare(label) === bare(path) ? null : <span className="label small dim">{label}</span>;
}

/** Returns whether a field changed, as a whole or within. */
function isChanged(path: string, { changed }: ChangeEvent): boolean {
  return changed.some((one) => one === path || one.startsWith(`${path}.`));
}

function Held({
  event,
  path,
  field,
}: {
  readonly event: ChangeEvent;
  readonly path: string;
  readonly field: Field;
}) {
  const { record, before } = event;
  const changed = isChanged(path, event);
  return changed && before ? (
    <Change before={readPath(before, path)} after={readPath(record, path)} field={field} />
  ) : (
    <Value json={readPath(record, path)} tone={changed ? 'will' : 'plain'} field={field} />
  );
}

interface HeldListProps {
  readonly event: ChangeEvent;
  readonly path: string;
  readonly field: Field;
  readonly label: string;
  readonly nameOf: (path: string, shown?: string) => ReactNode;
}

function HeldList({ event, path, field, label, nameOf }: HeldListProps) {
  const { record, before } = event;
  const changed = isChanged(path, event);
  return (
    <ListBlocks
      field={field}
      label={label}
      json={readPath(record, path)}
      {...(changed && before && { before: readPath(before, path) ?? null })}
      nameOf={(name) => nameOf(`${path}.${name}`, name)}
    />
  );
}
