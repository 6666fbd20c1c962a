import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { RecordRef, RulesBegun, RulesNow as Preview } from '@vast-knot/core';
import { ask, sentenceOf } from '../../api/client';
import { recordPath } from '../../api/queries';
import { Outcome } from '../../bench/Outcome';
import { useMay } from '../../frame/useMay';
import { Loading } from '../../parts/states';
import { count } from '../../parts/time';
import { Verdict } from '../../parts/Verdict';

interface RulesNowProps {
  readonly recordRef: RecordRef;
  readonly onClose: () => void;
}

/** Runs the published rules on a record as it is: what each would do, and doing it. */
export function RulesNow({ recordRef, onClose }: RulesNowProps) {
  const mayRun = useMay('reconciles.write');
  // The same for every press of the button, so that it is done once.
  const [press] = useState(() => crypto.randomUUID());
  const path = `${recordPath(recordRef)}/rules`;
  const preview = useMutation({
    mutationFn: () => ask<Preview>(`${path}/preview`, { method: 'POST', body: { id: press } }),
  });
  const run = useMutation({
    mutationFn: () => ask<RulesBegun>(path, { method: 'POST', body: { id: press } }),
  });
  const { mutate } = preview;
  useEffect(() => mutate(), [mutate]);
  const { would = [], left = [] } = preview.data ?? {};
  const writes = would.flatMap(({ report }) => report.writes);
  const messages = would.flatMap(({ report }) => report.messages);
  const deeds = [
    ...(writes.length > 0 || messages.length === 0 ? [`Write ${count(writes.length, 'record')}`] : []),
    ...(messages.length > 0 ? [`Send ${count(messages.length, 'message')}`] : []),
  ];
  return (
    <section className="run-form boxed" aria-label="Run the rules now">
      <p className="flush">
        As if all that the rules watch had just changed. Each rule is computed by itself, for the record as it
        is.
      </p>
      {preview.isPending && <Loading />}
      {(preview.isError || run.isError) && (
        <div className="note wrong" role="alert">
          {sentenceOf(preview.error ?? run.error)}
        </div>
      )}
      {run.isSuccess ? (
        <div className="note settled" role="status">
          {count(run.data.runs.length, 'run')} begun:{' '}
          {run.data.runs.map(({ rule, name, run: id }) => (
            <div key={rule}>{id === null ? name : <Link to={`/runs/${id}`}>{name}</Link>}</div>
          ))}
        </div>
      ) : (
        preview.data && (
          <>
            <ul className="rules-now">
              {would.map(({ rule, name, report }) => (
                <li key={rule}>
                  <Link to={`/rules/${rule}`}>{name}</Link>{' '}
                  <Verdict tone={report.writes.length + report.messages.length > 0 ? 'will' : 'quiet'}>
                    {report.rules[0]?.because}
                  </Verdict>
                </li>
              ))}
              {left.map(({ rule, because }) => (
                <li key={rule} className="dim">
                  Not run: {because}
                </li>
              ))}
            </ul>
            {would.length + left.length === 0 && (
              <p className="dim flush">No published rule is about this record type.</p>
            )}
            {writes.length > 0 && <Outcome records={writes} />}
          </>
        )
      )}
      <div className="side-by-side">
        {mayRun && preview.data && !run.isSuccess && (
          <Button
            color="ember"
            loading={run.isPending}
            disabled={writes.length + messages.length === 0}
            onClick={() => run.mutate()}
          >
            {deeds.join(', ')}
          </Button>
        )}
        <Button variant="subtle" onClick={onClose}>
          Close
        </Button>
      </div>
    </section>
  );
}
