import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';
import { Trouble } from './say.mjs';

/**
 * Ports that a server may have and nothing else takes: below those that the system gives to connections that go out. One of those would
 * be taken sooner or later by somebody's connection while its server is being started, or started again.
 */
const ports = { first: 20_000, last: 32_000 };

/** What was given out already, by this process: its server may not listen yet, or be about to come back. */
const given = new Set();

/** A port of loopback that nothing listens on, and that stays so until its server is there. */
export async function freePort() {
  for (let tries = 0; tries < 200; tries++) {
    const port = randomInt(ports.first, ports.last);
    if (given.has(port) || !(await isFree(port))) continue;
    given.add(port);
    return port;
  }
  throw new Trouble(`No free port was found between ${ports.first} and ${ports.last}.`);
}

/** Says in one line that a port is taken, before anything is started. */
export async function requireFree(port, what, setting) {
  if (await isFree(port)) return port;
  throw new Trouble(
    `Port ${port}, for ${what}, is taken. Stop the program that uses it, or set ${setting} to another port.`,
  );
}

function isFree(port) {
  return new Promise((done) => {
    const probe = createServer();
    probe.once('error', () => done(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => done(true)));
  });
}
