import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import {
  leafFields,
  readPath,
  sameValue,
  type Json,
  type RecordRef,
  type RecordType,
  type RecordView,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, recordPath, useRecord, useTimeline } from '../api/queries';
import { useArrivals } from '../api/stream';
import { useMay } from '../frame/useMay';
import { Failure, Loading } from '../parts/states';
import { FieldValue } from '../parts/FieldValue';
import { FieldInput } from './FieldInput';
import { RulesNow } from './run/RulesNow';
import { RunRule } from './run/RunRule';
import { WouldHappen } from './run/WouldHappen';
import { Timeline } from './Timeline';
import { lastWrite, WrittenBy } from './WrittenBy';

/** One record, field by field: what it holds, what just arrived, and what the person is about to change. */
export function RecordSheet({
  type,
  recordRef,
}: {
  readonly type: RecordType;
  readonly recordRef: RecordRef;
}) {
  const record = useRecord(recordRef);
  const arrived = useArrivals(recordRef);
  const mayChange = useMay('records.change');
  const mayAsk = useMay('rules.preview');
  const maySample = useMay('samples.change');
  const timeline = useTimeline(recordRef).data;
  const client = useQueryClient();
  /** The field whose history is asked for. */
  const [asked, setAsked] = useState('');
  /** What is asked of the rules. */
  const [asking, setAsking] = useState<'now' | 'if'>();
  const [edits, setEdits] = useState<Readonly<Record<string, Json>>>({});
  const save = useMutation({
    mutationFn: (view: RecordView) =>
      ask<RecordView>(recordPath(recordRef), {
        method: 'PATCH',
        body: { set: edits },
        ...(view.version !== null && { ifMatch: view.version }),
      }),
    onSuccess: (view) => {
      client.setQueryData(keys.record(recordRef), view);
      setEdits({});
    },
  });
  if (record.isPending) return <Loading />;
  if (record.isError) return <Failure error={record.error} again={() => void record.refetch()} />;
  const edited = Object.keys(edits).length;
  const title = String(readPath(record.data.record, type.nameField) ?? recordRef.id);
  return (
    <div className="record-sheet">
      <div className="page-head">
        <h1>{title}</h1>
        <span className="mono dim">
          {type.label} {recordRef.id}
        </span>
        {maySample && (
          <Link
            to={`/bench/new?of=${encodeURIComponent(`${recordRef.system}/${recordRef.recordType}/${recordRef.id}`)}`}
            className="small"
          >
            Make a sample of it
          </Link>
        )}
        {mayAsk && edited === 0 && (
          <Button
            variant="subtle"
            size="compact-sm"
            aria-expanded={asking === 'now'}
            onClick={() => setAsking(asking === 'now' ? undefined : 'now')}
          >
            Run the rules now
          </Button>
        )}
        {edited > 0 && (
          <span className="end">
            {mayAsk && (
              <Button variant="default" aria-expanded={asking === 'if'} onClick={() => setAsking('if')}>
                What would happen?
              </Button>
            )}
            <Button variant="subtle" onClick={() => setEdits({})}>
              Undo
            </Button>
            <Button color="ember" loading={save.isPending} onClick={() => save.mutate(record.data)}>
              Save {edited === 1 ? 'the change' : `${edited} changes`}
            </Button>
          </span>
        )}
      </div>
      {mayAsk && <RunRule type={type} recordRef={recordRef} />}
      {asking === 'now' && <RulesNow recordRef={recordRef} onClose={() => setAsking(undefined)} />}
      {asking === 'if' && edited > 0 && (
        <WouldHappen
          // Asked anew for what is typed by now.
          key={JSON.stringify(edits)}
          type={type}
          view={record.data}
          set={edits}
          onClose={() => setAsking(undefined)}
        />
      )}
      {save.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(save.error)}
        </div>
      )}
      <table className="grid boxed">
        <thead>
          <tr>
            <th className="of34">Field</th>
            <th>Value</th>
          </tr>
        </thead>
        <tbody>
          {leafFields(type.fields).map(({ path, label, field }) => {
            const held = readPath(record.data.record, path);
            const why = (
              <button
                type="button"
                className="why"
                title={`Why does ${label} hold this?`}
                aria-pressed={asked === path}
                onClick={() => setAsked(asked === path ? '' : path)}
              >
                {label}
              </button>
            );
            const input =
              field.readOnly || !mayChange ? (
                <FieldValue field={field} label={label} json={held} />
              ) : (
                <FieldInput
                  field={field}
                  label={label}
                  json={path in edits ? edits[path] : held}
                  changed={path in edits}
                  onChange={(json) => setEdits((known) => withEdit(known, path, json, held))}
                  onEnter={() => edited > 0 && save.mutate(record.data)}
                />
              );
            const marks = arrived.includes(path) && (
              <span className="verdict will small mark-after">just changed</span>
            );
            const writer = <WrittenBy write={lastWrite(timeline, path)} json={held} field={field} />;
            const className = arrived.includes(path) ? 'arrived' : undefined;
            // The rows of a list want the whole width.
            return field.type === 'list' && field.fields ? (
              <tr key={path} className={className}>
                <td colSpan={2}>
                  {why}
                  {marks}
                  {writer}
                  {input}
                </td>
              </tr>
            ) : (
              <tr key={path} className={className}>
                <td>
                  {why}
                  {marks}
                </td>
                <td>
                  {writer}
                  {input}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <Timeline type={type} recordRef={recordRef} field={asked} onField={setAsked} />
    </div>
  );
}

/** Returns the edits with one more; typing the old value again is no edit. */
function withEdit(
  known: Readonly<Record<string, Json>>,
  path: string,
  json: Json,
  held: Json | undefined,
): Readonly<Record<string, Json>> {
  const { [path]: _dropped, ...others } = known;
  return sameValue(undefined, json, held) ? others : { ...others, [path]: json };
}
