import { isPublicAddress, refusedUrl } from './outbound';

/** Special-purpose addresses of the IANA registries (RFC 6890); those below from memory. */
test.each([
  '127.0.0.1',
  '10.1.2.3',
  '172.16.0.1',
  '192.168.1.1',
  '169.254.169.254',
  '0.0.0.0',
  '::1',
  'fe80::1',
  'fc00::1',
  '::ffff:127.0.0.1',
  'no address',
])('%s is not of the public internet', (address) => expect(isPublicAddress(address)).toBe(false));

test('a public address is', () => expect(isPublicAddress('8.8.4.4')).toBe(true));

test.each([
  ['http://127.0.0.1:4601/api', 'inside this network'],
  ['http://[::1]/api', 'inside this network'],
  ['http://2130706433/api', 'inside this network'],
  ['http://localhost:80/', 'is this machine'],
  ['ftp://desk.example/', 'not an address of the web'],
])('%s is refused', (url, because) =>
  expect(refusedUrl(new URL(url), ['127.0.0.1:4602'])).toContain(because),
);

test('an address that was allowed, and a name, are not', () => {
  expect(refusedUrl(new URL('http://127.0.0.1:4602/x'), ['127.0.0.1:4602'])).toBeUndefined();
  expect(refusedUrl(new URL('https://desk.example/x'), [])).toBeUndefined();
});
