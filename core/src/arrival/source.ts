import Joi from 'joi';
import { Temporal } from 'temporal-polyfill';
import { isDue } from '../model/clock';
import { fieldName } from '../model/names';
import { nfc } from '../model/nfc';
import { fits } from '../model/wildcard';
import { scheduleSchema, type Schedule } from '../model/trigger';

/** Where files come from by themselves. */
export type FileOrigin =
  /** Fetched from an address at certain times. */
  | {
      readonly kind: 'address';
      readonly url: string;
      /** The header that carries its secret; blank where it wants none. */
      readonly header: string;
      readonly schedule: Schedule;
    }
  /** Taken from a folder of the server as they come to lie there. */
  | {
      readonly kind: 'folder';
      /** By its name in the settings of the server. */
      readonly folder: string;
      /** Which of its files: `*` stands for any characters. */
      readonly pattern: string;
    };

/** Says where files of one kind come from, what their records become, and by when one is expected. */
export interface FileSource {
  readonly name: string;
  readonly origin: FileOrigin;
  readonly system: string;
  readonly recordType: string;
  /** Whether what can be applied is, without a person. */
  readonly apply: boolean;
  /** By when one is to have come; null where none is expected. */
  readonly expected: Schedule | null;
}

const text = (most: number) => Joi.string().trim().min(1).max(most).required();

export const fileSourceSchema: Joi.ObjectSchema<FileSource> = Joi.object<FileSource>({
  name: text(80),
  origin: Joi.alternatives<FileOrigin>()
    .conditional('.kind', {
      switch: [
        {
          is: 'address',
          then: Joi.object({
            kind: Joi.valid('address').required(),
            url: Joi.string()
              .uri({ scheme: ['http', 'https'] })
              .max(2000)
              .required(),
            header: Joi.string()
              .allow('')
              .max(100)
              .pattern(/^[A-Za-z0-9-]*$/, 'the name of a header')
              .required(),
            schedule: scheduleSchema.required(),
          }),
        },
        {
          is: 'folder',
          then: Joi.object({
            kind: Joi.valid('folder').required(),
            folder: text(80),
            pattern: text(200).pattern(/^[^/\\]+$/, 'a name of a file, in which * stands for any characters'),
          }),
        },
      ],
      otherwise: Joi.object({ kind: Joi.valid('address', 'folder').required() }),
    })
    .required(),
  system: Joi.string().max(40).required(),
  recordType: fieldName.required(),
  apply: Joi.boolean().required(),
  expected: scheduleSchema.allow(null).required(),
});

/** Returns what tells the names of files that a pattern means, whichever capitals they have: `*` stands for any characters. */
export function fileNamed(pattern: string): (name: string) => boolean {
  const plain = (text: string) => nfc(text).toLowerCase();
  return (name) => fits(plain(name), plain(pattern));
}

/** A schedule is due once a week at least; a day more for a time of day that a change of the clocks leaves out. */
const mostDaysBack = 8;

/** Returns the last minute at which a schedule was due, up to an instant; undefined where there was none in eight days. */
export function lastDue(schedule: Schedule, now: Date): Date | undefined {
  const today = Temporal.Instant.from(now.toISOString()).toZonedDateTimeISO(schedule.zone).toPlainDate();
  for (let days = 0; days <= mostDaysBack; days++) {
    const due = today
      .subtract({ days })
      .toZonedDateTime({ timeZone: schedule.zone, plainTime: schedule.at })
      .toInstant();
    if (due.epochMilliseconds <= now.getTime() && isDue(schedule, due.toString()))
      return new Date(due.epochMilliseconds);
  }
  return undefined;
}

/**
 * Returns since when a file is missing: the last time by which one was expected, where none came since the time before it. Undefined where
 * one did, or where nobody had said so by then (`since`).
 */
export function missingSince(
  schedule: Schedule,
  { now, since, lastCame }: { readonly now: Date; readonly since: Date; readonly lastCame: Date | null },
): Date | undefined {
  const due = lastDue(schedule, now);
  if (!due || due < since) return undefined;
  const before = lastDue(schedule, new Date(due.getTime() - 1));
  return lastCame && (!before || lastCame > before) ? undefined : due;
}
