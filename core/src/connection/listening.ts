import Joi from 'joi';
import { Temporal } from 'temporal-polyfill';
import { fillAll } from './template';

/** The form in which a system is told since when. */
export const sinceForms = ['date-time', 'date', 'seconds', 'milliseconds', 'number'] as const;

/** A system is asked every so often what changed. */
export interface Asked {
  /** Parameters of the list; `{since}` is filled in. */
  readonly parameters: Readonly<Record<string, string>>;
  /** The field with the time, or the number, of the last change: the greatest that was seen is what is asked with next. */
  readonly field: string;
  readonly form: (typeof sinceForms)[number];
  /** So much earlier than the last time is asked, for changes that are stamped before they can be read. A number is not moved back. */
  readonly overlapSeconds: number;
  readonly everySeconds: number;
}

/** All records are read every so often, and held against what was last seen; so those that are gone are found as well. */
export interface Compared {
  readonly everySeconds: number;
}

/** How changes of a record type are learnt, beside what the system tells by itself. */
export interface Listening {
  readonly asked?: Asked;
  readonly compared?: Compared;
}

const every = Joi.number().integer().min(5).max(604_800);

export const listeningSchema = Joi.object<Listening>({
  asked: Joi.object<Asked>({
    parameters: Joi.object()
      .pattern(Joi.string().max(120), Joi.string().max(300))
      .custom((all: Record<string, string>, helpers) =>
        Object.values(all).some((text) => text.includes('{since}'))
          ? all
          : helpers.message({
              custom: 'No parameter says since when: each time everything would be asked for.',
            }),
      )
      .required(),
    field: Joi.string().max(300).required(),
    form: Joi.valid(...sinceForms).default('date-time'),
    overlapSeconds: Joi.number().integer().min(0).max(86_400).default(60),
    everySeconds: every.default(60),
  }),
  compared: Joi.object<Compared>({ everySeconds: every.default(3600) }),
});

/** Returns the value of the field of the last change as a number that grows; undefined for what is none. A time is in milliseconds since 1970. */
export function changeMark(form: Asked['form'], value: unknown): number | undefined {
  if (typeof value === 'number') return form === 'seconds' ? value * 1000 : value;
  if (typeof value !== 'string' || value === '') return undefined;
  if (form === 'number' || form === 'seconds' || form === 'milliseconds') {
    const number = Number(value);
    return Number.isNaN(number) ? undefined : form === 'seconds' ? number * 1000 : number;
  }
  const at = Date.parse(/[Zz]|[+-]\d\d:?\d\d$/.test(value) || !value.includes(':') ? value : `${value}Z`);
  return Number.isNaN(at) ? undefined : at;
}

/** Returns the parameters that ask for what changed since a mark. */
export function sinceParameters(
  { parameters, form, overlapSeconds }: Asked,
  mark: number,
): readonly (readonly [name: string, value: string])[] {
  const at = form === 'number' ? mark : Math.max(0, mark - overlapSeconds * 1000);
  return Object.entries(fillAll(parameters, { since: sinceText(form, at) }));
}

function sinceText(form: Asked['form'], at: number): string {
  switch (form) {
    case 'number':
    case 'milliseconds':
      return String(Math.floor(at));
    case 'seconds':
      return String(Math.floor(at / 1000));
    case 'date':
      return Temporal.Instant.fromEpochMilliseconds(Math.floor(at)).toString().slice(0, 10);
    case 'date-time':
      return Temporal.Instant.fromEpochMilliseconds(Math.floor(at)).toString();
  }
}
