import { lookup } from 'node:dns';
import { Socket } from 'node:net';
import ipaddr from 'ipaddr.js';
import { isPublicAddress } from '../outbound';

/**
 * A socket to a database. Like the agent for HTTP it resolves a name once, refuses one that leads inside this network, and connects to
 * what was resolved; `host:port` of `allowed` are reached as they are.
 */
export class GuardedSocket extends Socket {
  constructor(private readonly allowed: readonly string[]) {
    super();
  }

  // The driver connects so, and in no other way.
  override connect(...args: unknown[]): this {
    const [port, host] = args;
    if (typeof port !== 'number' || typeof host !== 'string')
      return this.refuse('It is no address of a database.');
    if (this.allowed.includes(`${host}:${port}`)) return super.connect(port, host);
    if (ipaddr.isValid(host))
      return isPublicAddress(host)
        ? super.connect(port, host)
        : this.refuse(`${host}:${port} is an address inside this network.`);
    lookup(host, { all: true }, (error, addresses) => {
      const inside = addresses?.find(({ address }) => !isPublicAddress(address));
      const [first] = addresses ?? [];
      if (error) this.destroy(error);
      else if (inside) this.refuse(`${host} leads to ${inside.address}, inside this network.`);
      else if (first) super.connect(port, first.address);
    });
    return this;
  }

  private refuse(because: string): this {
    process.nextTick(() => this.destroy(new RefusedAddress(because)));
    return this;
  }
}

/** An address that is not reached, whoever asks. */
export class RefusedAddress extends Error {}
