/**
 * Lets those that meet at the same records come one after the other. Many events that are handled at the same time may write to one
 * record; whoever was overtaken there computes anew while nobody else in this process writes to it, so that each is overtaken once at most.
 */
export class Turns {
  private readonly last = new Map<string, Promise<void>>();

  /** Does work when it has the turn for all of the keys. They are taken in one order everywhere, so that none waits for another for ever. */
  async inTurn<T>(keys: readonly string[], work: () => Promise<T>): Promise<T> {
    const ends: (() => void)[] = [];
    try {
      for (const key of [...new Set(keys)].sort()) ends.push(await this.take(key));
      return await work();
    } finally {
      for (const end of ends) end();
    }
  }

  private async take(key: string): Promise<() => void> {
    const before = this.last.get(key);
    let end = (): void => undefined;
    const mine = new Promise<void>((done) => (end = done));
    this.last.set(key, mine);
    await before;
    return () => {
      if (this.last.get(key) === mine) this.last.delete(key);
      end();
    };
  }
}
