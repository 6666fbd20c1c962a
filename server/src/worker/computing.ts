/** Tells whoever watches over this thread which events it computes, and lets suspected ones be computed alone. */
export class Computing {
  private active = 0;
  private alone = false;
  private wanting = 0;
  private readonly waiting: (() => void)[] = [];

  /** `tell` is called before the computation of an event begins and after it has ended. */
  constructor(
    private readonly tell: (what: { readonly event: string; readonly computes: boolean }) => void,
  ) {}

  /**
   * Does the work of computing an event. One that is suspected to have ended a thread is computed while nothing else is, so that a
   * second end has one cause.
   */
  async around<T>(event: string, suspected: boolean, work: () => Promise<T>): Promise<T> {
    if (suspected) this.wanting++;
    while (this.alone || (suspected ? this.active > 0 : this.wanting > 0))
      await new Promise<void>((done) => this.waiting.push(done));
    if (suspected) this.wanting--;
    this.active++;
    this.alone = suspected;
    this.tell({ event, computes: true });
    try {
      return await work();
    } finally {
      this.tell({ event, computes: false });
      this.active--;
      if (suspected) this.alone = false;
      for (const go of this.waiting.splice(0)) go();
    }
  }
}

/** Computes without anybody who watches. */
export const unwatched = new Computing(() => undefined);
