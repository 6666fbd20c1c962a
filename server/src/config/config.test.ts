import { readConfig } from './config';

const least = {
  DATABASE_URL: 'postgres://u:p@127.0.0.1:5432/vast_knot',
  SESSION_SECRET: 'x'.repeat(32),
  SEAL_KEY: Buffer.alloc(32).toString('base64'),
};

test('what is not said has a sensible value', () => {
  expect(readConfig(least)).toMatchObject({
    port: 4600,
    publicUrl: 'http://127.0.0.1:4600',
    role: 'all',
    allowedOutbound: [],
    bodyLimit: 1024 * 1024,
    connections: {},
  });
});

test('lists and JSON are read', () => {
  const users = { admin: { password: 'long enough', role: 'administrator' } };
  const config = readConfig({
    ...least,
    ALLOWED_OUTBOUND: '127.0.0.1:1,127.0.0.1:2',
    USERS: JSON.stringify(users),
    PORT: '80',
  });
  expect(config).toMatchObject({ allowedOutbound: ['127.0.0.1:1', '127.0.0.1:2'], users, port: 80 });
});

test.each([
  ['DATABASE_URL', undefined],
  ['DATABASE_URL', 'mysql://x'],
  ['SESSION_SECRET', 'short'],
  ['PORT', 'ninety'],
  ['ROLE', 'cook'],
  ['USERS', '{'],
  ['USERS', '{"a":{"password":"x","role":"administrator"}}'],
])('%s = %s is refused in one line that names it', (name, value) => {
  expect(() => readConfig({ ...least, [name]: value })).toThrow(name);
});
