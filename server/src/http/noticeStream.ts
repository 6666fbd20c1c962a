import type { Response } from 'express';
import type { Notice } from '@vast-knot/core';

const keepAliveMs = 20_000;

/** Sends notices to every browser that listens, as server-sent events. */
export class NoticeStream {
  private readonly listeners = new Set<Response>();
  private readonly timer = setInterval(() => this.send(': still here\n\n'), keepAliveMs);

  broadcast(notice: Notice): void {
    this.send(`data: ${JSON.stringify(notice)}\n\n`);
  }

  /** Answers a request with all notices from now on. */
  answer(response: Response): void {
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      connection: 'keep-alive',
      'x-accel-buffering': 'no',
    });
    response.write('retry: 1000\n\n');
    this.listeners.add(response);
    response.on('close', () => this.listeners.delete(response));
  }

  stop(): void {
    clearInterval(this.timer);
    for (const listener of this.listeners) listener.end();
  }

  private send(text: string): void {
    for (const listener of this.listeners) listener.write(text);
  }
}
