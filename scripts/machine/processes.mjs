import { spawn } from 'node:child_process';
import { root } from './folders.mjs';
import { Trouble } from './say.mjs';

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
