/** Measures how long something computes, which may rest meanwhile; calls `over` once when it has computed for longer than it may. */
export class Stopwatch {
  private timer: NodeJS.Timeout | undefined;
  private begunAt = 0;

  constructor(
    private left: number,
    private readonly over: () => void,
  ) {}

  /** It computes from now on. */
  go(): void {
    if (this.timer) return;
    this.begunAt = performance.now();
    this.timer = setTimeout(this.over, this.left);
  }

  /** It rests, or has ended. */
  rest(): void {
    if (!this.timer) return;
    clearTimeout(this.timer);
    this.timer = undefined;
    this.left = Math.max(0, this.left - (performance.now() - this.begunAt));
  }
}
