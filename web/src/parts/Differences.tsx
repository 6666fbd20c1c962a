import { fieldAt, refOf, type ExistingDifference } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { SystemTag } from './SystemTag';
import { Value } from './Value';
import './judged.css';

/** Differences of one record that are shown in a list. */
const mostShown = 4;
const lineHeight = 24;

/** Returns how high a row with these differences is drawn, in pixels. */
export const differencesHeight = ({
  differences,
}: {
  readonly differences: readonly ExistingDifference[];
}): number => 14 + lineHeight * Math.max(2, Math.min(differences.length, mostShown + 1));

/** What would be other than it is: the field, from what, to what. */
export function Differences({ differences }: { readonly differences: readonly ExistingDifference[] }) {
  const shown = differences.slice(0, differences.length > mostShown + 1 ? mostShown : mostShown + 1);
  return (
    <span className="differences">
      {shown.map((difference, at) => (
        <Difference key={at} difference={difference} />
      ))}
      {differences.length > shown.length && (
        <span className="small dim">and {differences.length - shown.length} more</span>
      )}
    </span>
  );
}

function Difference({
  difference: { key, deed, path, before, after },
}: {
  readonly difference: ExistingDifference;
}) {
  const systems = useSystems().data ?? [];
  if (deed === 'message')
    return (
      <span className="difference">
        <span>message to {key}</span>
        <span />
        <span className="mono">{path}</span>
      </span>
    );
  const { system, recordType, id } = refOf(key);
  const type = systems
    .find((each) => each.key === system)
    ?.recordTypes.find(({ name }) => name === recordType);
  const field = type && fieldAt(type.fields, path);
  return (
    <span className="difference">
      <span>
        <SystemTag system={system} /> {deed === 'create' ? 'new' : <span className="mono small">{id}</span>}{' '}
        {path === '' ? (type?.label ?? recordType) : (field?.label ?? path)}
      </span>
      <span>{deed === 'remove' ? 'is there' : <Value json={before} field={field} />}</span>
      <span>{deed === 'remove' ? 'is removed' : <Value json={after} tone="will" field={field} />}</span>
    </span>
  );
}
