import { createServer } from 'node:net';
import { Trouble } from './say.mjs';

/** A port of loopback that nothing listens on. */
export function freePort() {
  return new Promise((done, fail) => {
    const probe = createServer();
    probe.once('error', fail);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address();
      probe.close(() => done(port));
    });
  });
}

/** Says in one line that a port is taken, before anything is started. */
export function requireFree(port, what, setting) {
  return new Promise((done, fail) => {
    const probe = createServer();
    probe.once('error', () =>
      fail(
        new Trouble(
          `Port ${port}, for ${what}, is taken. Stop the program that uses it, or set ${setting} to another port.`,
        ),
      ),
    );
    probe.listen(port, '127.0.0.1', () => probe.close(() => done(port)));
  });
}
