/** Places for the first records; there are always twice as many as records. */
const firstPlaces = 1024;

/** What a place holds. */
const empty = 0;
const known = 1;
const seen = 2;

/**
 * What stands for each record of a type, by its id, while all of them are compared. It holds two numbers for a record and not its id, so
 * that a million records take some forty megabytes. Two ids that had one number would be looked at whole.
 */
export class KnownDigests {
  private ids = new Float64Array(firstPlaces);
  private digests = new Float64Array(firstPlaces);
  private states = new Uint8Array(firstPlaces);
  private count = 0;

  /** Adds a record; without a digest it is like none. */
  add(id: string, digest: number | null): void {
    if (this.count * 2 >= this.ids.length) this.grow();
    this.put(numberOf(id), digest ?? -1, known);
  }

  /** Takes note that a record is there. Returns whether it is as it is known. */
  see(id: string, digest: number): boolean {
    const at = this.placeOf(numberOf(id));
    if (this.states[at] === empty) return false;
    this.states[at] = seen;
    return this.digests[at] === digest;
  }

  /** Returns whether a record is known, and was not seen. */
  isLeft(id: string): boolean {
    return this.states[this.placeOf(numberOf(id))] === known;
  }

  /** Returns whether any record was not seen. */
  get anyLeft(): boolean {
    return this.states.includes(known);
  }

  private put(id: number, digest: number, state: number): void {
    const at = this.placeOf(id);
    if (this.states[at] === empty) this.count++;
    this.ids[at] = id;
    this.digests[at] = digest;
    this.states[at] = state;
  }

  /** Returns the place of an id, or the empty one where it would be. */
  private placeOf(id: number): number {
    const mask = this.ids.length - 1;
    let at = (id % 0x1_0000_0000) & mask;
    while (this.states[at] !== empty && this.ids[at] !== id) at = (at + 1) & mask;
    return at;
  }

  private grow(): void {
    const { ids, digests, states } = this;
    this.ids = new Float64Array(ids.length * 2);
    this.digests = new Float64Array(ids.length * 2);
    this.states = new Uint8Array(ids.length * 2);
    this.count = 0;
    states.forEach((state, at) => {
      if (state !== empty) this.put(ids[at] ?? 0, digests[at] ?? 0, state);
    });
  }
}

/** Returns a number of 53 bits for an id: two sums of its letters, each multiplied by primes and mixed. */
function numberOf(id: string): number {
  let one = 0x9e37_79b1;
  let other = 0x85eb_ca77;
  for (let at = 0; at < id.length; at++) {
    const letter = id.charCodeAt(at);
    one = Math.imul(one ^ letter, 0x85eb_ca6b);
    other = Math.imul(other ^ letter, 0xc2b2_ae35);
  }
  one = Math.imul(one ^ (one >>> 16), 0x27d4_eb2f) ^ Math.imul(other ^ (other >>> 13), 0x1656_67b1);
  other = Math.imul(other ^ (other >>> 16), 0x27d4_eb2f) ^ Math.imul(one ^ (one >>> 13), 0x1656_67b1);
  return (other & 0x1f_ffff) * 0x1_0000_0000 + (one >>> 0);
}
