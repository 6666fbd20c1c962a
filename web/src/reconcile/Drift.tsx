import { Button } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { DriftLook, DriftView, RuleView, Schedule } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { SchedulePhrase, scheduleText } from '../parts/SchedulePhrase';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { zoneHere } from '../parts/zoneHere';
import { digits } from '../parts/habits';

const atFirst = (): Schedule => ({ at: '02:00', zone: zoneHere(), days: [] });

/** A rule that is looked at by the clock: when, and a line for each look with what it found. */
export function Drift({ rule }: { readonly rule: RuleView }) {
  const mayLook = useMay('reconciles.look');
  const client = useQueryClient();
  const drift = useQuery({
    queryKey: keys.drift(rule.id),
    queryFn: () => ask<DriftView | null>(`/rules/${rule.id}/drift`),
  });
  const [schedule, setSchedule] = useState(atFirst());
  const put = useMutation({
    mutationFn: (wanted: Schedule | null) =>
      ask<DriftView | null>(
        `/rules/${rule.id}/drift`,
        wanted ? { method: 'PUT', body: { ...wanted } } : { method: 'DELETE' },
      ),
    onSuccess: (view) => client.setQueryData(keys.drift(rule.id), view),
  });
  if (drift.data === undefined) return null;
  const watch = drift.data;
  return (
    <section aria-label="By the clock" className="drift">
      <h2>By the clock</h2>
      <p className="flush">
        {watch ? (
          <>
            “{rule.draft.name}” is held beside what exists{' '}
            {mayLook ? (
              <SchedulePhrase
                schedule={watch.schedule}
                change={put.mutate}
                label="When it is looked at"
                right="reconciles.look"
              />
            ) : (
              scheduleText(watch.schedule)
            )}
            , only to look; {watch.by} asked for it.{' '}
            {mayLook && (
              <Button size="compact-sm" variant="default" onClick={() => put.mutate(null)}>
                Look no more
              </Button>
            )}
          </>
        ) : (
          mayLook && (
            <>
              Hold it beside what exists{' '}
              <SchedulePhrase
                schedule={schedule}
                change={setSchedule}
                label="When it is looked at"
                right="reconciles.look"
              />
              , only to look, and tell when something new is out of step.{' '}
              <Button
                size="compact-sm"
                variant="default"
                loading={put.isPending}
                onClick={() => put.mutate(schedule)}
              >
                Look again and again
              </Button>
            </>
          )
        )}
      </p>
      {put.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(put.error)}
        </div>
      )}
      {watch && watch.looks.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th className="of24">Due</th>
              <th className="of14">Right already</th>
              <th className="of14">Would change</th>
              <th className="of14">Cannot be computed</th>
              <th>Out of step since the look before</th>
            </tr>
          </thead>
          <tbody>
            {watch.looks.map((look) => (
              <Line key={look.due} look={look} />
            ))}
          </tbody>
        </table>
      )}
      {watch?.looks.length === 0 && <p className="small dim">It was not looked yet.</p>}
    </section>
  );
}

function Line({ look: { due, look, counts, fresh, problem } }: { readonly look: DriftLook }) {
  const number = (of: 'right' | 'changes' | 'cannot') => digits(counts?.[of] ?? 0);
  return (
    <tr>
      <td className="mono small">
        {look ? <Link to={`/reconcile/${look}`}>{shortTime(due)}</Link> : shortTime(due)}
      </td>
      {counts ? (
        <>
          <td className="mono">{number('right')}</td>
          <td className="mono">{number('changes')}</td>
          <td className="mono">{number('cannot')}</td>
          <td>
            {fresh ? (
              <Verdict tone="wrong">{count(fresh, 'record')}</Verdict>
            ) : (
              <Verdict tone="settled">nothing new</Verdict>
            )}
          </td>
        </>
      ) : (
        <td colSpan={4}>
          {problem === null ? (
            <Verdict tone="waiting">it is looked at</Verdict>
          ) : (
            <Verdict tone="wrong">{problem}</Verdict>
          )}
        </td>
      )}
    </tr>
  );
}
