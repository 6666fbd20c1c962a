import { Checkbox, TextInput } from '@mantine/core';
import type { Right, Schedule } from '@vast-knot/core';
import { Phrase } from './Phrase';

const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/** Returns times of day as they stand in a sentence. */
export function scheduleText({ at, zone, days: on }: Schedule): string {
  const onDays = on.length === 0 ? 'every day' : `on ${on.map((day) => days[day - 1]).join(', ')}`;
  return `${onDays} at ${at} (${zone})`;
}

interface SchedulePhraseProps {
  readonly schedule: Schedule;
  readonly change: (schedule: Schedule) => void;
  readonly label: string;
  /** The right that changing it wants. */
  readonly right?: Right;
}

/** Times of day in a zone, on some days of the week or on all, edited where they stand. */
export function SchedulePhrase({ schedule, change, label, right }: SchedulePhraseProps) {
  const put = (part: Partial<Schedule>) => change({ ...schedule, ...part });
  return (
    <Phrase says={scheduleText(schedule)} label={label} width={320} {...(right && { right })}>
      <TextInput
        label="At"
        type="time"
        value={schedule.at}
        onChange={({ currentTarget: { value } }) => value !== '' && put({ at: value })}
      />
      <TextInput
        label="By the clock of"
        description="A zone of the IANA database"
        mt={8}
        value={schedule.zone}
        onChange={({ currentTarget: { value } }) => put({ zone: value })}
      />
      <Checkbox.Group
        label="On these days; none means every day"
        mt={8}
        value={schedule.days.map(String)}
        onChange={(chosen) => put({ days: chosen.map(Number).sort((a, b) => a - b) })}
      >
        {days.map((day, index) => (
          <Checkbox key={day} value={String(index + 1)} label={day} size="xs" mt={4} />
        ))}
      </Checkbox.Group>
    </Phrase>
  );
}
