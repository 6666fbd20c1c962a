import type { Response } from 'express';
import type { Notice } from '@vast-knot/core';

const keepAliveMs = 20_000;

/** Sends notices to every browser that listens, as server-sent events. */
export class NoticeStream {
  private readonly listeners = new Map<Response, string>();
  private readonly timer = setInterval(() => this.send(': still here\n\n'), keepAliveMs);

  /** Tells all who listen; what concerns a person's rights ends what they listen to, and they ask anew as who they are by then. */
  broadcast(notice: Notice): void {
    if (notice.kind === 'person') {
      for (const [listener, name] of this.listeners) if (name === notice.name) listener.end();
      return;
    }
    this.send(`data: ${JSON.stringify(notice)}\n\n`);
  }

  /** Answers the request of a person with all notices from now on. */
  answer(response: Response, name: string): void {
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      connection: 'keep-alive',
      'x-accel-buffering': 'no',
    });
    response.write('retry: 1000\n\n');
    this.listeners.set(response, name);
    response.on('close', () => this.listeners.delete(response));
  }

  stop(): void {
    clearInterval(this.timer);
    for (const listener of this.listeners.keys()) listener.end();
  }

  private send(text: string): void {
    for (const listener of this.listeners.keys()) listener.write(text);
  }
}
