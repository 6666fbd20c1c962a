import { Listener, laneChannel } from '../db/notices';
import type { Lane } from '../inbox/lanes';

/** Tells the lanes at work in this process that there is something new in them. */
export class Wakes {
  private readonly listener: Listener;
  private readonly listening = new Map<string, () => void>();

  constructor(databaseUrl: string) {
    this.listener = new Listener(databaseUrl, laneChannel, (key) => this.listening.get(key)?.());
  }

  start(): Promise<void> {
    return this.listener.start();
  }

  stop(): Promise<void> {
    return this.listener.stop();
  }

  /** Calls `woken` for whatever is told of a lane. Returns what ends that. */
  readonly listen = ({ system, lane }: Lane, woken: () => void): (() => void) => {
    const key = `lane-${system}-${lane}`;
    this.listening.set(key, woken);
    return () => this.listening.delete(key);
  };
}
