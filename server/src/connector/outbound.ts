import { lookup } from 'node:dns';
import type { LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';
import { Agent, buildConnector } from 'undici';

/** Returns whether an address is one of the public internet; loopback, private, link-local and special ones are not. */
export function isPublicAddress(address: string): boolean {
  return ipaddr.isValid(address) && ipaddr.process(address).range() === 'unicast';
}

/** Returns host and port of a URL, with the port that its scheme means where it names none. */
function hostAndPort({ hostname, port, protocol }: URL): string {
  return `${hostname}:${port === '' ? (protocol === 'https:' ? '443' : '80') : port}`;
}

/**
 * Returns why a URL may not be reached, or undefined. Names are checked again after they have been resolved, by the agent, so
 * that a name cannot point inside. `allowed` are private addresses, `host:port`, that may be reached all the same.
 */
export function refusedUrl(url: URL, allowed: readonly string[]): string | undefined {
  if (url.protocol !== 'http:' && url.protocol !== 'https:')
    return `${url.protocol} is not an address of the web.`;
  if (url.username !== '' || url.password !== '')
    return 'a name and a password do not belong into an address.';
  if (allowed.includes(hostAndPort(url))) return undefined;
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (ipaddr.isValid(host) && !isPublicAddress(host)) return `${url.host} is an address inside this network.`;
  if (host === 'localhost' || host.endsWith('.localhost')) return `${url.host} is this machine.`;
  return undefined;
}

/** Returns why an address may not be reached, or leads nowhere, as far as that can be known before it is asked; undefined where it may. */
export async function refusedAddress(url: URL, allowed: readonly string[]): Promise<string | undefined> {
  const refused = refusedUrl(url, allowed);
  if (refused !== undefined || allowed.includes(hostAndPort(url))) return refused;
  return new Promise((done) => {
    lookup(url.hostname.replace(/^\[|\]$/g, ''), { all: true }, (error, addresses) => {
      if (error) return done(`nobody knows where ${url.hostname} is.`);
      const inside = addresses.find(({ address }) => !isPublicAddress(address));
      return done(inside && `${url.hostname} leads to ${inside.address}, inside this network.`);
    });
  });
}

/** Resolves a name once; one that leads inside this network is refused. What is resolved is what is connected to. */
const guarded: LookupFunction = (hostname, options, callback) => {
  lookup(hostname, { ...options, all: true }, (error, addresses) => {
    if (error) return callback(error, '', 0);
    const inside = addresses.find(({ address }) => !isPublicAddress(address));
    if (inside)
      return callback(new Error(`${hostname} leads to ${inside.address}, inside this network.`), '', 0);
    const [first] = addresses;
    if (options.all) return callback(null, addresses);
    return callback(null, first?.address ?? '', first?.family ?? 0);
  });
};

/**
 * Returns an HTTP agent that connects to public addresses, and to those of `allowed` (`host:port`) as they are. A name that is allowed
 * for one port is not for another.
 */
export function outboundAgent(allowed: readonly string[]): Agent {
  const timeout = 5000;
  const plainly = buildConnector({ timeout });
  const withGuard = buildConnector({ timeout, lookup: guarded });
  return new Agent({
    connections: 16,
    headersTimeout: 20_000,
    bodyTimeout: 20_000,
    connect(options, callback) {
      const port = options.port === '' ? (options.protocol === 'https:' ? '443' : '80') : options.port;
      const host = `${options.hostname}:${port}`;
      if (allowed.includes(host)) return plainly(options, callback);
      // An address that is written as a number is not looked up.
      const number = options.hostname.replace(/^\[|\]$/g, '');
      if (ipaddr.isValid(number) && !isPublicAddress(number))
        return callback(new Error(`${host} is an address inside this network.`), null);
      return withGuard(options, callback);
    },
  });
}
