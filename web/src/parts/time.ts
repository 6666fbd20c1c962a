import { dateFormat, digits } from './habits';

const toMinute = { day: '2-digit', month: 'short', hour: '2-digit', minute: '2-digit' } as const;
const toSecond = { ...toMinute, second: '2-digit' } as const;

/** Returns an instant in the reader's zone and form, to the minute. */
export function minuteTime(iso: string): string {
  return dateFormat(toMinute).format(new Date(iso));
}

/** Returns an instant in the reader's zone and form, to the second. */
export function shortTime(iso: string): string {
  return dateFormat(toSecond).format(new Date(iso));
}

/** “1 record”, “2 records”. */
export function count(number: number, one: string, many: string = `${one}s`): string {
  return `${digits(number)} ${number === 1 ? one : many}`;
}
