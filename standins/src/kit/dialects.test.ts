import { HTTP } from 'cloudevents';
import { Webhook } from 'standardwebhooks';
import { customerBookDialect } from '../customerBook/dialect';
import { freightDeskDialect } from '../freightDesk/dialect';
import { customers, ports } from '../seed/skerry';
import { message } from './outbox';

describe('Customer Book', () => {
  test('filters stand in brackets, several values in one parameter', () => {
    const filters = customerBookDialect.list.filters({
      'filter[company_id]': ['C-1', 'C-2'],
      'filter[address.town]': 'Murrow',
      limit: '5',
    });
    expect(filters).toEqual(
      new Map([
        ['company_id', ['C-1', 'C-2']],
        ['address.town', ['Murrow']],
      ]),
    );
    expect(customerBookDialect.list.filters({ order: 'name' })).toBe('“order” is not a parameter of lists.');
  });

  test('a bulk body is a list of items', () => {
    expect(
      customerBookDialect.bulk.items({
        items: [{ id: 'C-1', if_match: '"2"', idempotency_key: 'k', set: { phone: '1' } }],
      }),
    ).toEqual([{ id: 'C-1', ifMatch: '"2"', key: 'k', changes: { phone: '1' } }]);
    expect(customerBookDialect.bulk.items({})).toBe('The body must have a list “items”.');
  });

  test('its token is a bearer token', () => {
    expect(customerBookDialect.auth.accepts('Bearer right', 'right')).toBe(true);
    expect(customerBookDialect.auth.accepts('Bearer wrong', 'right')).toBe(false);
    expect(customerBookDialect.auth.accepts('', 'right')).toBe(false);
  });
});

describe('Freight Desk', () => {
  test('conditions are written field:operator:value; a value may hold colons and bars', () => {
    const filters = freightDeskDialect.list.filters({
      where: ['title:eq:Slate: fine', 'status:in:open|con%7Cfirmed'],
    });
    expect(filters).toEqual(
      new Map([
        ['title', ['Slate: fine']],
        ['status', ['open', 'con|firmed']],
      ]),
    );
    expect(freightDeskDialect.list.filters({ where: 'status' })).toBe(
      '“status” is not a condition; write where=field:eq:value.',
    );
  });

  test('a bulk answer gives the record, or the fault', () => {
    const results = [
      { id: 'B-1', status: 200, body: { id: 'B-1' } },
      { id: 'B-2', status: 412, body: { detail: 'x' } },
    ];
    expect(freightDeskDialect.bulk.body(results)).toEqual({
      outcomes: [
        { recordId: 'B-1', code: 200, entity: { id: 'B-1' } },
        { recordId: 'B-2', code: 412, fault: { detail: 'x' } },
      ],
    });
  });
});

describe('events on the wire are read by the package cloudevents', () => {
  const event = {
    specversion: '1.0',
    id: 'e-1',
    source: '/desk',
    type: 'booking.updated',
    subject: 'B-1',
    time: '2026-03-09T09:00:00.000Z',
    datacontenttype: 'application/json',
    data: { record: { remark: 'Øster “quay”' } },
  };
  test.each([customerBookDialect, freightDeskDialect])('$title', (dialect) => {
    const { headers, body } = message(dialect, event);
    expect(HTTP.toEvent({ headers, body })).toMatchObject(event);
  });

  test('and their signature by the package of the standard', () => {
    const secret = `whsec_${Buffer.from('twenty-four bytes of it.').toString('base64')}`;
    const { body } = message(freightDeskDialect, event);
    const now = new Date();
    const signature = new Webhook(secret).sign('e-1', now, body);
    const headers = {
      'webhook-id': 'e-1',
      'webhook-timestamp': String(Math.floor(now.getTime() / 1000)),
      'webhook-signature': signature,
    };
    expect(new Webhook(secret).verify(body, headers)).toEqual(event.data);
    expect(() => new Webhook(secret).verify(`${body} `, headers)).toThrow();
  });
});

test('the customers are the same every time, invented, and fit both applications', () => {
  const all = customers();
  expect(customers()).toEqual(all);
  expect(all).toHaveLength(240);
  expect(new Set(all.map(({ name }) => name)).size).toBe(240);
  for (const customer of all) {
    expect(customer.domain).toMatch(/\.example$/);
    expect(customer.phone).toMatch(/^01632 960 \d{3}$/);
    expect(customer.name.length).toBeLessThanOrEqual(60);
    expect(ports.map(({ name }) => name)).toContain(customer.town);
  }
});
