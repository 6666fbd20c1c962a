import { readCheck } from './checks';

/** Checks as `pg_get_constraintdef` of PostgreSQL 15 writes them, noted from a server; the first two are those of its documentation, 5.4.1. */
test.each<[string, ReturnType<typeof readCheck>]>([
  ['CHECK ((price > (0)::numeric))', [{ column: 'price', over: 0 }]],
  ['CHECK ((price > discounted_price))', undefined],
  [
    `CHECK ((kind = ANY (ARRAY['quay'::text, 'ramp, or ''slip'''::text])))`,
    [{ column: 'kind', options: ['quay', `ramp, or 'slip'`] }],
  ],
  [
    `CHECK (((code)::text = ANY ((ARRAY['A'::character varying, 'B'::character varying])::text[])))`,
    [{ column: 'code', options: ['A', 'B'] }],
  ],
  [`CHECK (((state = 'on'::text) OR (state = 'off'::text)))`, [{ column: 'state', options: ['on', 'off'] }]],
  [`CHECK ((state = 'on'::text))`, [{ column: 'state', options: ['on'] }]],
  [
    'CHECK (((metres >= (1)::numeric) AND (metres <= 400.5)))',
    [
      { column: 'metres', min: 1 },
      { column: 'metres', max: 400.5 },
    ],
  ],
  ['CHECK (("Max Guests" < 12))', [{ column: 'Max Guests', under: 12 }]],
  ['CHECK ((char_length(name) <= 30))', [{ column: 'name', maxLength: 30 }]],
  ['CHECK ((length((name)::text) < 31))', [{ column: 'name', maxLength: 30 }]],
  ['CHECK ((degrees >= (-90)))', [{ column: 'degrees', min: -90 }]],
  [`CHECK ((name ~ '^[A-Z]'::text))`, undefined],
  [`CHECK (((a = 'x'::text) OR (b = 'y'::text)))`, undefined],
  [`CHECK (((a >= 1) AND (name ~ 'b AND c'::text)))`, undefined],
  ['CHECK ((a >= 1)) NOT VALID', [{ column: 'a', min: 1 }]],
  ['UNIQUE (a)', undefined],
])('%s', (definition, said) => {
  expect(readCheck(definition)).toEqual(said);
});
