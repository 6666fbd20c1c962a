import { Checkbox, TextInput } from '@mantine/core';
import { useEffect } from 'react';
import type { Schedule, Trigger } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';

const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
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
  const { at, zone, days: on } = schedule ?? atFirst;
  const change = (part: Partial<Schedule>) => set({ schedule: { at, zone, days: on, ...part } });
  const onDays = on.length === 0 ? 'every day' : `on ${on.map((day) => days[day - 1]).join(', ')}`;
  return (
    <>
      {'; for every one of them '}
      <Phrase says={`${onDays} at ${at} (${zone})`} label="When the rule is due" width={320}>
        <TextInput
          label="At"
          type="time"
          value={at}
          onChange={({ currentTarget: { value } }) => value !== '' && change({ at: value })}
        />
        <TextInput
          label="By the clock of"
          description="A zone of the IANA database"
          mt={8}
          value={zone}
          onChange={({ currentTarget: { value } }) => change({ zone: value })}
        />
        <Checkbox.Group
          label="On these days; none means every day"
          mt={8}
          value={on.map(String)}
          onChange={(chosen) => change({ days: chosen.map(Number).sort((a, b) => a - b) })}
        >
          {days.map((day, index) => (
            <Checkbox key={day} value={String(index + 1)} label={day} size="xs" mt={4} />
          ))}
        </Checkbox.Group>
      </Phrase>
    </>
  );
}
