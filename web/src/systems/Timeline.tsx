import { Select } from '@mantine/core';
import { Link } from 'react-router';
import {
  changeKinds,
  fieldAt,
  isWatched,
  labelAt,
  leafFields,
  type RecordRef,
  type RecordType,
  type TimelineEntry,
} from '@vast-knot/core';
import { useTimeline } from '../api/queries';
import { SystemTag } from '../parts/SystemTag';
import { Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { isRows, ListRows } from '../parts/ListRows';
import { Value } from '../parts/Value';

interface TimelineProps {
  readonly type: RecordType;
  readonly recordRef: RecordRef;
  /** The field that is asked about; blank for all. */
  readonly field: string;
  readonly onField: (path: string) => void;
}

/** What happened to a record, newest first: what its system told, and what rules wrote, with the line and the value's source. */
export function Timeline({ type, recordRef, field, onField }: TimelineProps) {
  const timeline = useTimeline(recordRef);
  const label = (path: string) => labelAt(type.fields, path);
  return (
    <section aria-label="Timeline" className="timeline">
      <header>
        <h2>{field === '' ? 'What happened to it' : `Why ${label(field)} holds what it does`}</h2>
        <Select
          aria-label="Field of the timeline"
          data={[
            { value: '', label: 'All fields' },
            ...leafFields(type.fields).map(({ path, label: name }) => ({ value: path, label: name })),
          ]}
          value={field}
          searchable
          onChange={(value) => onField(value ?? '')}
        />
      </header>
      {timeline.isPending && <Loading />}
      {timeline.isError && <Failure error={timeline.error} again={() => void timeline.refetch()} />}
      {timeline.data && <Entries entries={timeline.data} field={field} type={type} />}
    </section>
  );
}

interface EntriesProps {
  readonly entries: readonly TimelineEntry[];
  readonly field: string;
  readonly type: RecordType;
}

function Entries({ entries, field, type }: EntriesProps) {
  const shown = entries.filter((entry) =>
    entry.kind === 'event'
      ? !entry.own && (field === '' || entry.changed.some((path) => isWatched(path, [field])))
      : field === '' || entry.edits.some(({ path }) => path === field),
  );
  if (shown.length === 0) {
    return (
      <p className="dim">
        {field === ''
          ? 'Nothing has been told of this record since its system was connected.'
          : 'No rule wrote this field, and no event told of its change: it holds what it held when its system was connected.'}
      </p>
    );
  }
  return (
    <ol>
      {shown.map((entry) => (
        <li key={`${entry.kind} ${entry.run}`}>
          <span className="mono small dim">{shortTime(entry.at)}</span>
          {entry.kind === 'event' ? (
            <Told entry={entry} label={(path) => labelAt(type.fields, path)} />
          ) : (
            <Wrote entry={entry} field={field} type={type} />
          )}
        </li>
      ))}
    </ol>
  );
}

function Told({
  entry,
  label,
}: {
  readonly entry: Extract<TimelineEntry, { kind: 'event' }>;
  readonly label: (path: string) => string;
}) {
  return (
    <div>
      <Link to={`/runs/${entry.run}`}>{entry.event}</Link>
      {changeKinds.some((kind) => kind === entry.event) && ' in its system'}
      {entry.changed.length > 0 && `: ${entry.changed.map(label).join(', ')}`}
      <div className="small dim">{entry.because}</div>
    </div>
  );
}

interface WroteProps {
  readonly entry: Extract<TimelineEntry, { kind: 'write' }>;
  readonly field: string;
  readonly type: RecordType;
}

const changeWords = { edit: 'written', create: 'created', remove: 'removed' } as const;

function Wrote({ entry, field, type }: WroteProps) {
  const { run, rules, source, change, edits } = entry;
  const named = rules.map(({ name, version }) => `${name}, version ${version}`);
  return (
    <div>
      <Link to={`/runs/${run}`}>
        {changeWords[change]} {named.length > 0 ? `by ${named.join('; ')}` : 'to take back what was there'}
      </Link>
      {source && (
        <>
          {' '}
          because of <SystemTag system={source.system} />{' '}
          <Link to={`/records?left=${source.system}/${source.recordType}/${source.id}`} className="mono">
            {source.id}
          </Link>
        </>
      )}
      {edits
        .filter(({ path }) => field === '' || path === field)
        .map(({ path, before, after, formula, because }) => (
          <div key={path} className="edit">
            {labelAt(type.fields, path)}:{' '}
            {isRows(before) || isRows(after) ? (
              <ListRows
                field={fieldAt(type.fields, path)}
                label={labelAt(type.fields, path)}
                before={before}
                json={after}
              />
            ) : (
              <>
                <Value json={before} field={fieldAt(type.fields, path)} /> <span className="arrow">→</span>{' '}
                <Value json={after} tone="settled" field={fieldAt(type.fields, path)} />
              </>
            )}
            {formula !== null && <code className="mono small dim"> = {formula}</code>}
            {because !== null && <span className="small dim"> {because}</span>}
          </div>
        ))}
    </div>
  );
}
