import { Checkbox } from '@mantine/core';
import { Link } from 'react-router';
import { fieldAt, refOf, type ArrivalRow, type ExistingDifference } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { SystemTag } from '../parts/SystemTag';
import { shortTime } from '../parts/time';
import { Value } from '../parts/Value';
import { Verdict } from '../parts/Verdict';
import { outcomeOf } from './standingWords';

/** Differences of one row that are shown in the list. */
const mostShown = 4;
const lineHeight = 24;

/** Returns how high a row is drawn, in pixels. */
export const rowHeight = ({ differences }: ArrivalRow) =>
  14 + lineHeight * Math.max(2, Math.min(differences.length, mostShown + 1));

interface RowLineProps {
  readonly row: ArrivalRow;
  readonly marked: boolean;
  readonly mark: (row: number, chosen: boolean) => void;
  readonly opened: boolean;
  readonly open: () => void;
}

/** A row of a file: which it is, what it would make other, and how it stands. */
export function RowLine({ row, marked, mark, opened, open }: RowLineProps) {
  const { at, place, recordId, differences, standing, run, because, sameKeyAs, appliedBefore } = row;
  const mayApply = useMay('files.apply');
  const canBeChosen = mayApply && (standing === 'create' || standing === 'change') && run === null;
  const shown = differences.slice(0, differences.length > mostShown + 1 ? mostShown : mostShown + 1);
  const [tone, word] = outcomeOf(row);
  const why = run ? run.because : because;
  const more = [
    ...(sameKeyAs === null ? [] : [`the same key as row ${sameKeyAs}`]),
    ...(appliedBefore === null ? [] : [`its key was applied before, at ${shortTime(appliedBefore)}`]),
  ].join('; ');
  return (
    <div className={`arrival-row ${opened ? 'at' : ''}`}>
      <span className="who">
        {canBeChosen && (
          <Checkbox
            size="xs"
            aria-label={`Choose ${place}`}
            checked={marked}
            onChange={({ currentTarget: { checked } }) => mark(at, checked)}
          />
        )}
        <button type="button" className="plain" onClick={open}>
          {place}
        </button>
        <span className="mono small" title={recordId ?? ''}>
          {recordId}
        </span>
      </span>
      <span className="differences">
        {shown.map((difference, n) => (
          <Difference key={n} difference={difference} />
        ))}
        {differences.length > shown.length && (
          <span className="small dim">and {differences.length - shown.length} more</span>
        )}
      </span>
      <span className="outcome" title={[why, more].filter((text) => text !== '').join(' — ')}>
        {run ? (
          <Link to={`/runs/${run.id}`}>
            <Verdict tone={tone}>{word}</Verdict>
          </Link>
        ) : (
          <Verdict tone={tone}>{word}</Verdict>
        )}
        <span className="small dim">{more === '' ? why : more}</span>
      </span>
    </div>
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
