/** What the work below takes where the bounds of these tests were set, in milliseconds. */
const usualMs = 40;

/**
 * Returns how much slower the machine is at this moment than where the bounds of tests were set, 1 at least: a fixed piece of work of plain
 * text is done and timed. So a bound says what a formula costs beside that, and not how busy the machine is.
 */
export function slowness(): number {
  const begun = performance.now();
  const seen = new Map<string, number>();
  for (let at = 0; at < 8000; at++) {
    const word = `${at % 97} ${'abcdefgh'.repeat(3)} ${at}`.toUpperCase().replace(/[AEIOU]/g, '-');
    seen.set(word, (seen.get(word) ?? 0) + 1);
  }
  return Math.max(1, (performance.now() - begun) / usualMs);
}
