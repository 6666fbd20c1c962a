import { ActionIcon, Button, Loader, TextInput } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { Rule } from '@vast-knot/core';
import { parseLineKey } from '../lineKey';
import { sentenceOf } from '../../api/client';
import { useMay } from '../../frame/useMay';
import { Failure } from '../../parts/states';
import { count } from '../../parts/time';
import { surroundingsOf, type Known } from '../../work/known';
import { useWork } from '../../work/useWork';
import { ColumnRows } from './ColumnRows';
import { verdictOf, verdicts, verdictWords, type ColumnVerdict } from './columnVerdict';
import { mostOfEach, useManyRecords } from './useManyRecords';
import { holdsValue } from './holdsValue';
import { mostMade, sourcesOf, useMakeSamples } from './useMakeSamples';
import { neededTypes } from './neededTypes';
import { useAddress } from '../../parts/useAddress';
import { digits } from '../../parts/habits';

interface ColumnPaneProps {
  /** The line: `0/contactPhone`. */
  readonly place: string;
  readonly rule: Rule;
  readonly known: Known;
  readonly onClose: () => void;
}

/** What one line gives for all records there are: values that fail or surprise show before the rule is published. */
export function ColumnPane({ place, rule, known, onClose }: ColumnPaneProps) {
  const { action, field } = parseLineKey(place);
  const [round, setRound] = useState(0);
  const [params, put] = useAddress();
  const mayMake = useMay('samples.change');
  const only = verdicts.find((verdict) => verdict === params.get('only'));
  const types = useMemo(
    () => neededTypes(rule, action, field, surroundingsOf(known)),
    [rule, action, field, known],
  );
  const { records, fetched, more, problem } = useManyRecords(types, round);
  const time = useMemo(() => new Date().toISOString(), []);
  const column = useWork(
    'column',
    useMemo(
      () => (records ? { rule, action, field, records, time } : undefined),
      [rule, action, field, records, time],
    ),
    known,
  );
  const rows = useMemo(
    () => (column.output?.rows ?? []).map((row) => ({ row, verdict: verdictOf(row) })),
    [column.output],
  );
  const numberOf = (verdict: ColumnVerdict) => rows.filter((each) => each.verdict === verdict).length;
  const choose = (verdict: ColumnVerdict | undefined) => put({ only: verdict ?? '' });
  const value = params.get('value') ?? '';
  const shown = rows.filter(
    ({ row, verdict }) => (!only || verdict === only) && (value === '' || holdsValue(row, value)),
  );
  const makeSamples = useMakeSamples(rule.trigger);
  return (
    <aside aria-label="One line over many records" className="column-pane">
      <div className="page-head">
        <h2>
          <span className="mono">{field}</span> over many records
        </h2>
        <span className="end">
          <Link to={`/reconcile?rule=${rule.id}`} className="small">
            The whole rule, and writing it
          </Link>
          <Button variant="subtle" onClick={() => setRound(round + 1)}>
            Fetch again
          </Button>
          <ActionIcon variant="subtle" aria-label="Back to the sample" onClick={onClose}>
            <IconX size={16} />
          </ActionIcon>
        </span>
      </div>
      {problem !== undefined || column.error !== undefined ? (
        <Failure error={problem ?? column.error} again={() => setRound(round + 1)} />
      ) : !column.output ? (
        <p role="status" className="dim">
          <Loader size="xs" aria-hidden /> {count(fetched, 'record')} fetched; nothing is written.
        </p>
      ) : (
        <>
          <div className="verdict-filters" role="group" aria-label="Shown">
            <button type="button" className="phrase" aria-pressed={!only} onClick={() => choose(undefined)}>
              all {digits(rows.length)}
            </button>
            {verdicts
              .filter((verdict) => numberOf(verdict) > 0)
              .map((verdict) => (
                <button
                  key={verdict}
                  type="button"
                  className="phrase"
                  aria-pressed={only === verdict}
                  onClick={() => choose(only === verdict ? undefined : verdict)}
                >
                  {verdictWords[verdict]} {digits(numberOf(verdict))}
                </button>
              ))}
          </div>
          {more.length > 0 && (
            <p className="small dim">
              Only the first {digits(mostOfEach)} records of each type are looked at.
            </p>
          )}
          <div className="column-tools">
            <TextInput
              aria-label="Only rows with this value"
              placeholder="Only with this value, or a part of it"
              value={value}
              onChange={({ currentTarget }) => put({ value: currentTarget.value })}
            />
            {mayMake && shown.length > 0 && (
              <Button
                variant="default"
                loading={makeSamples.isPending}
                onClick={() =>
                  makeSamples.mutate(
                    sourcesOf(
                      rule.trigger,
                      shown.map(({ row }) => row),
                      records ?? [],
                    ),
                  )
                }
              >
                {shown.length > mostMade ? `Make samples of the first ${mostMade}` : 'Make samples of them'}
              </Button>
            )}
            {makeSamples.isSuccess && (
              <span className="small" role="status">
                {count(makeSamples.data.length, 'sample')} made:{' '}
                <Link to={`/bench/${makeSamples.data[0] ?? ''}?against=drafts`}>open them on the bench</Link>
              </span>
            )}
            {makeSamples.isError && <span className="value wrong">{sentenceOf(makeSamples.error)}</span>}
          </div>
          <ColumnRows uses={column.output.uses} rows={shown} choose={(text) => put({ value: text })} />
        </>
      )}
    </aside>
  );
}
