import { Checkbox } from '@mantine/core';
import { Link } from 'react-router';
import type { ArrivalRow } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { Differences } from '../parts/Differences';
import { shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { outcomeOf } from './standingWords';

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
  const [tone, word] = outcomeOf(row);
  const why = run ? run.because : because;
  const more = [
    ...(sameKeyAs === null ? [] : [`the same key as row ${sameKeyAs}`]),
    ...(appliedBefore === null ? [] : [`its key was applied before, at ${shortTime(appliedBefore)}`]),
  ].join('; ');
  return (
    <div className={`look-row ${opened ? 'at' : ''}`}>
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
      <Differences differences={differences} />
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
