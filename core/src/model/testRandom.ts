/** Random numbers that a seed gives again: mulberry32, a published generator; from memory. */
export class Random {
  constructor(private state: number) {}

  below(limit: number): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return Math.floor((((t ^ (t >>> 14)) >>> 0) / 4294967296) * limit);
  }

  of<T>(items: readonly T[]): T {
    return items[this.below(items.length)] as T;
  }
}
