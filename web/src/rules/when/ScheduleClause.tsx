import { useEffect } from 'react';
import type { Schedule, Trigger } from '@vast-knot/core';
import { SchedulePhrase } from '../../parts/SchedulePhrase';

const atFirst: Schedule = { at: '06:00', zone: 'Europe/London', days: [] };

/** At which times a scheduled rule goes through all records of its type. */
export function ScheduleClause({
  schedule,
  set,
}: {
  readonly schedule: Trigger['schedule'];
  readonly set: (change: Partial<Trigger>) => void;
}) {
  // A scheduled rule always has a time, so that it is never due at no time at all.
  useEffect(() => {
    if (!schedule) set({ schedule: atFirst });
  }, [schedule, set]);
  return (
    <>
      {', '}
      <SchedulePhrase
        schedule={schedule ?? atFirst}
        change={(next) => set({ schedule: next })}
        label="When the rule is due"
      />
    </>
  );
}
