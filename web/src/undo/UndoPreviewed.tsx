import { Button, Checkbox, TextInput } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { Link } from 'react-router';
import {
  fieldAt,
  refKey,
  type RecordType,
  type UndoPreview,
  type UndoRecordView,
  type UndoStanding,
} from '@vast-knot/core';
import { sentenceOf } from '../api/client';
import { useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { FieldValue } from '../parts/FieldValue';
import { SystemTag } from '../parts/SystemTag';
import { count, shortTime } from '../parts/time';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { digits } from '../parts/habits';
import './undo.css';

const standings: Readonly<Record<UndoStanding, readonly [VerdictTone, string]>> = {
  'goes back': ['will', 'goes back'],
  'changed since': ['quiet', 'stays, changed since'],
  'is back': ['settled', 'is back already'],
};

/** How what was written is taken back. */
export interface HowTaken {
  /** Records that stay as they are, by `refKey`. */
  readonly without: readonly string[];
  /** Whether what goes back starts rules. */
  readonly starts: boolean;
}

interface UndoPreviewedProps {
  readonly preview: UndoPreview;
  /** Has it taken back; where single records can be left out, without some of them. */
  readonly takeBack: (because: string, how: HowTaken) => Promise<unknown>;
  /** Whether single records can be left out. */
  readonly canLeaveOut: boolean;
}

/** What taking back would do, as the records are now, and doing it with a reason. */
export function UndoPreviewed({ preview, takeBack, canLeaveOut }: UndoPreviewedProps) {
  const { records, back, inPart, stays, isBack, messages, runs, ofRuns } = preview;
  const [because, setBecause] = useState('');
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const systems = useSystems().data ?? [];
  const mayUndo = useMay('runs.undo');
  const chosen = back - without.size;
  const [starts, setStarts] = useState(false);
  const undo = useMutation({ mutationFn: () => takeBack(because, { without: [...without], starts }) });
  const choose = (key: string, chosenNow: boolean) =>
    setWithout((known) => {
      const next = new Set(known);
      if (chosenNow) next.delete(key);
      else next.add(key);
      return next;
    });
  // Of very many runs only the last are looked at, and all are taken back.
  const inPartLooked = ofRuns > runs;
  return (
    <>
      {inPartLooked && (
        <p className="note">
          Only what the last {digits(runs)} of {count(ofRuns, 'run')} wrote was looked at and is counted here.
          All {digits(ofRuns)} are taken back, one by one, the last first; what was changed since stays.
        </p>
      )}
      <p role="status" className="tally">
        {(
          [
            ['goes back', back],
            ['changed since', stays],
            ['is back', isBack],
          ] as const
        )
          .filter(([, number]) => number > 0)
          .map(([standing, number]) => (
            <Verdict key={standing} tone={standings[standing][0]}>
              {standings[standing][1]}: {count(number, 'record')}
              {standing === 'goes back' && inPart > 0 && `, ${digits(inPart)} of them in part`}
            </Verdict>
          ))}
      </p>
      {messages.length > 0 && (
        <p className="note">
          {count(messages.length, 'message')} that {messages.length === 1 ? 'was' : 'were'} sent cannot be
          taken back:{' '}
          {messages.slice(0, 5).map(({ id: message, type, endpoint }, at) => (
            <span key={message}>
              {at > 0 && ', '}
              <Link to={`/messages/${message}`}>
                {type} to {endpoint}
              </Link>
            </span>
          ))}
          .
        </p>
      )}
      {records.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th className="of20">Record</th>
              <th className="of14">Field</th>
              <th>Was written</th>
              <th>Is now</th>
              <th>Goes back to</th>
              <th className="of20">What becomes of it</th>
            </tr>
          </thead>
          <tbody>
            {records.map((record) => (
              <Rows
                key={refKey(record.ref)}
                record={record}
                chosen={!without.has(refKey(record.ref))}
                choose={canLeaveOut && mayUndo ? choose : undefined}
                type={systems
                  .find(({ key }) => key === record.ref.system)
                  ?.recordTypes.find(({ name }) => name === record.ref.recordType)}
              />
            ))}
          </tbody>
        </table>
      )}
      {back + stays + isBack > records.length && (
        <p className="small dim">
          The first {digits(records.length)} are shown; the others are taken back too.
        </p>
      )}
      {ofRuns > 1 && !inPartLooked && (
        <p className="small dim">
          It is what {count(ofRuns, 'run')} wrote together; they are taken back one by one, the last first.
        </p>
      )}
      {mayUndo && (back > 0 || inPartLooked) && (
        <form
          className="take-back-ask"
          onSubmit={(event) => {
            event.preventDefault();
            undo.mutate();
          }}
        >
          <TextInput
            label="Why it is taken back"
            required
            maxLength={1000}
            value={because}
            onChange={({ currentTarget: { value } }) => setBecause(value)}
            w={380}
          />
          <Button
            type="submit"
            color="ember"
            disabled={because.trim() === '' || (chosen <= 0 && !inPartLooked)}
            loading={undo.isPending}
          >
            Take back {inPartLooked ? count(ofRuns, 'run') : count(chosen, 'record')}
          </Button>
          <span className="small dim">
            That is {ofRuns > 1 ? 'runs of their own' : 'a run of its own'}
            {starts ? '' : ofRuns > 1 ? ': they start no rule' : ': it starts no rule'}, and can be taken back
            too.
          </span>
          <Checkbox
            label="Start rules for what goes back, as if somebody had changed it in its system"
            checked={starts}
            onChange={({ currentTarget: { checked } }) => setStarts(checked)}
          />
        </form>
      )}
      {undo.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(undo.error)}
        </div>
      )}
    </>
  );
}

interface RowsProps {
  readonly record: UndoRecordView;
  readonly type: RecordType | undefined;
  readonly chosen: boolean;
  /** Undefined where it cannot be left out. */
  readonly choose: ((key: string, chosen: boolean) => void) | undefined;
}

function Rows({ record, type, chosen, choose }: RowsProps) {
  const { ref, deed, standing, because, fields } = record;
  const labelled = useId();
  const [tone, word] = standings[standing];
  const name = (
    <span id={labelled}>
      <SystemTag system={ref.system} /> {type?.label}{' '}
      <Link to={`/records?left=${ref.system}/${ref.recordType}/${ref.id}`} className="mono">
        {ref.id}
      </Link>
    </span>
  );
  const head = (rows: number) => (
    <td rowSpan={rows}>
      {standing === 'goes back' && choose ? (
        <span className="chosen">
          <Checkbox
            size="xs"
            aria-labelledby={labelled}
            checked={chosen}
            onChange={({ currentTarget: { checked } }) => choose(refKey(ref), checked)}
          />
          {name}
        </span>
      ) : (
        name
      )}
    </td>
  );
  if (deed !== 'edit' || fields.length === 0) {
    const done = { create: 'was created', remove: 'was removed', edit: 'was written' }[deed];
    const becomes = { create: 'is removed', remove: 'is created again, with an id of its own', edit: '' }[
      deed
    ];
    return (
      <tr>
        {head(1)}
        <td colSpan={4}>
          {done}
          {standing === 'goes back' && `, and ${becomes}`}
        </td>
        <td>
          <Verdict tone={tone}>{word}</Verdict>
          {because !== '' && <div className="small">{because}</div>}
        </td>
      </tr>
    );
  }
  return fields.map(({ path, before, written, now, standing: own, by }, at) => {
    const field = type && fieldAt(type.fields, path);
    return (
      <tr key={path}>
        {at === 0 && head(fields.length)}
        <td>{field?.label ?? path}</td>
        <td>
          <FieldValue field={field} label={path} json={written} />
        </td>
        <td>
          {own === 'goes back' ? (
            <span className="small dim">as written</span>
          ) : (
            <FieldValue field={field} label={path} json={now} />
          )}
        </td>
        <td>{own === 'goes back' && <FieldValue field={field} label={path} json={before} tone="will" />}</td>
        <td>
          <Verdict tone={standings[own][0]}>{standings[own][1]}</Verdict>
          {by && (
            <div className="small">
              by <Link to={`/runs/${by.run}`}>{by.who}</Link>{' '}
              <span className="dim">at {shortTime(by.at)}</span>
            </div>
          )}
          {because !== '' && at === 0 && <div className="small">{because}</div>}
        </td>
      </tr>
    );
  });
}
