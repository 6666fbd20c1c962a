const short = new Intl.DateTimeFormat('en-GB', {
  day: '2-digit',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
});

/** Returns an instant in the reader's zone, to the second. */
export function shortTime(iso: string): string {
  return short.format(new Date(iso));
}

/** “1 record”, “2 records”. */
export function count(number: number, one: string, many: string = `${one}s`): string {
  return `${number.toLocaleString('en')} ${number === 1 ? one : many}`;
}
