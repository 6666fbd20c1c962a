import { spawn } from 'node:child_process';
import { root } from './folders.mjs';
import { say, Trouble } from './say.mjs';

/** Starts a Node.js program and waits for the line `ready`; lines before it are given to `onLine`. */
export function startNode(what, args, env, onLine = () => {}) {
  return new Promise((done, fail) => {
    const child = spawn(process.execPath, args, {
      cwd: root,
      env: { ...process.env, STOP_WITH_PARENT: '1', ...env },
      // A child hears by its input that this process is gone, even when it was killed.
      stdio: ['pipe', 'pipe', 'pipe'],
      detached: true,
    });
    let rest = '';
    let errors = '';
    let ready = false;
    child.stderr.on('data', (chunk) => {
      errors = (errors + chunk).slice(-4000);
      if (ready) process.stderr.write(chunk);
    });
    child.stdout.on('data', (chunk) => {
      rest += chunk;
      const lines = rest.split('\n');
      rest = lines.pop() ?? '';
      for (const line of lines) {
        if (line === 'ready') {
          ready = true;
          done(handle(child));
        } else onLine(line);
      }
    });
    child.once('error', (error) => fail(new Trouble(`${what} did not start: ${error.message}`)));
    child.once('exit', () => fail(new Trouble(errors.trim() || `${what} ended before it was ready.`)));
  });
}

function handle(child) {
  const ended = new Promise((done) => child.once('exit', done));
  return {
    pid: child.pid,
    ended,
    kill: (signal) => child.kill(signal),
    async stop() {
      if (child.exitCode !== null) return;
      child.kill('SIGTERM');
      const timer = setTimeout(() => child.kill('SIGKILL'), 12_000);
      await ended;
      clearTimeout(timer);
    },
  };
}

/** Pause before something that ended by itself is started again. */
const pauseMs = 300;
/** Starts one after the other that fail, after which it is left alone. */
const mostFailures = 20;

/**
 * Starts something and keeps it running: what ends by itself is started again. `start` gives a handle with `ended` and `stop`. `given` up
 * resolves when it could not be started again and again.
 */
export async function keepRunning(what, start) {
  let current = await start();
  let stopping = false;
  let giveUp;
  const givenUp = new Promise((done) => (giveUp = done));
  const follow = (running) =>
    void running.ended.then(async () => {
      if (stopping || current !== running) return;
      say(`${what} ended; it is started again.`);
      for (let failures = 0; !stopping && failures < mostFailures; failures++) {
        await new Promise((done) => setTimeout(done, pauseMs));
        if (stopping) return;
        try {
          const next = await start();
          if (stopping) return void next.stop();
          current = next;
          follow(next);
          return;
        } catch (thrown) {
          say(`${what} did not start: ${thrown.message}`);
        }
      }
      if (!stopping) giveUp();
    });
  follow(current);
  return {
    givenUp,
    get current() {
      return current;
    },
    /** Ends it and starts it anew. */
    async restart() {
      const before = current;
      current = undefined;
      await before?.stop();
      current = await start();
      follow(current);
    },
    async stop() {
      stopping = true;
      await current?.stop();
    },
  };
}
