import { isZone } from '../clock';
import type { TriggerKind } from './kind';

export const scheduled: TriggerKind<'scheduled'> = {
  kind: 'scheduled',
  words: 'is due by the clock',
  past: 'was due by the clock',
  tellsOfChange: false,
  members: ['schedule', 'once'],
  problems: ({ schedule }) => {
    if (!schedule) return [{ member: 'schedule', message: 'A scheduled rule needs a time of day.' }];
    return isZone(schedule.zone)
      ? []
      : [{ member: 'schedule', message: `There is no time zone “${schedule.zone}”.` }];
  },
};
