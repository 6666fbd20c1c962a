import { lookup } from 'node:dns';
import type { LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';
import { Agent } from 'undici';

/** Returns whether an address is one of the public internet; loopback, private, link-local and special ones are not. */
export function isPublicAddress(address: string): boolean {
  return ipaddr.isValid(address) && ipaddr.process(address).range() === 'unicast';
}

/**
 * Returns why a URL may not be reached, or undefined. Names are checked again after they have been resolved, by the agent, so
 * that a name cannot point inside.
 */
export function refusedUrl(url: URL, allowed: readonly string[]): string | undefined {
  if (url.protocol !== 'http:' && url.protocol !== 'https:')
    return `${url.protocol} is not an address of the web.`;
  if (allowed.includes(url.host)) return undefined;
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (ipaddr.isValid(host) && !isPublicAddress(host)) return `${url.host} is an address inside this network.`;
  if (host === 'localhost' || host.endsWith('.localhost')) return `${url.host} is this machine.`;
  return undefined;
}

/** Returns an HTTP agent that connects to public addresses, and to those of `allowed` (`host:port`) as they are. */
export function outboundAgent(allowed: readonly string[]): Agent {
  const allowedHosts = new Set(allowed.map((host) => host.replace(/:\d+$/, '')));
  const guarded: LookupFunction = (hostname, options, callback) => {
    lookup(hostname, { ...options, all: true }, (error, addresses) => {
      if (error) return callback(error, '', 0);
      const inside = allowedHosts.has(hostname)
        ? undefined
        : addresses.find(({ address }) => !isPublicAddress(address));
      if (inside)
        return callback(new Error(`${hostname} leads to ${inside.address}, inside this network.`), '', 0);
      const [first] = addresses;
      if (options.all) return callback(null, addresses);
      return callback(null, first?.address ?? '', first?.family ?? 0);
    });
  };
  return new Agent({
    connections: 16,
    headersTimeout: 20_000,
    bodyTimeout: 20_000,
    connect: { lookup: guarded, timeout: 5000 },
  });
}
