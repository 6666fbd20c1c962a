/** Who is at a record, or waits to be. */
interface Place {
  /** Ends when the last one who has the record alone is done with it. */
  readonly alone: Promise<void>;
  /** Those who came after that one and may be at the record at the same time. */
  readonly beside: Set<Promise<void>>;
}

/**
 * Says who may write to which records when many events that are handled at the same time meet there. An event is computed first and
 * writes later, so what it read may be overtaken by another. Whoever was overtaken has those records alone while it computes anew and
 * writes; the others send beside each other, when nobody has the record alone. So each is overtaken at a record once at most.
 */
export class Turns {
  private readonly places = new Map<string, Place>();

  /** At how many records somebody is. */
  get size(): number {
    return this.places.size;
  }

  /** Does work while nobody else is at these records. */
  async alone<T>(keys: readonly string[], work: () => Promise<T>): Promise<T> {
    return this.at(keys, (key) => this.takeAlone(key), work);
  }

  /** Does work when nobody has one of these records alone, together with others that do not need them alone either. */
  async beside<T>(keys: readonly string[], work: () => Promise<T>): Promise<T> {
    return this.at(keys, (key) => this.takeBeside(key), work);
  }

  /** Records are taken in one order everywhere, so that nobody waits for ever. */
  private async at<T>(
    keys: readonly string[],
    take: (key: string) => Promise<() => void>,
    work: () => Promise<T>,
  ): Promise<T> {
    const ends: (() => void)[] = [];
    try {
      for (const key of [...new Set(keys)].sort()) ends.push(await take(key));
      return await work();
    } finally {
      for (const end of ends) end();
    }
  }

  private async takeAlone(key: string): Promise<() => void> {
    const before = this.places.get(key);
    const { mine, end } = aStay();
    this.places.set(key, { alone: mine, beside: new Set() });
    await before?.alone;
    await Promise.all(before?.beside ?? []);
    return () => {
      const place = this.places.get(key);
      if (place?.alone === mine && place.beside.size === 0) this.places.delete(key);
      end();
    };
  }

  private async takeBeside(key: string): Promise<() => void> {
    const { mine, end } = aStay();
    const place = this.places.get(key) ?? { alone: nobody, beside: new Set() };
    this.places.set(key, place);
    place.beside.add(mine);
    await place.alone;
    return () => {
      place.beside.delete(mine);
      if (place.beside.size === 0 && this.places.get(key) === place) this.places.delete(key);
      end();
    };
  }
}

const nobody = Promise.resolve();

function aStay(): { readonly mine: Promise<void>; readonly end: () => void } {
  let end = (): void => undefined;
  const mine = new Promise<void>((done) => (end = done));
  return { mine, end };
}
