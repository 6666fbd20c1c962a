/**
 * CloudEvents 1.0.2: the examples of the HTTP protocol binding (3.1.4 and 3.2.4) and of the JSON format, from memory;
 * and the registry package `cloudevents` as a second reader of the same messages.
 */
import { HTTP, CloudEvent as PackageEvent } from 'cloudevents';
import { parseCloudEvent } from './cloudEvents';

const structured = {
  specversion: '1.0',
  type: 'com.example.someevent',
  time: '2018-04-05T03:56:24Z',
  id: '1234-1234-1234',
  source: '/mycontext/subcontext',
  comexampleextension1: 'value',
  datacontenttype: 'application/json',
  data: { appinfoA: 'abc', appinfoB: 123 },
};

describe('the examples of the HTTP binding', () => {
  test('binary content mode', () => {
    const headers = {
      'ce-specversion': '1.0',
      'ce-type': 'com.example.someevent',
      'ce-time': '2018-04-05T03:56:24Z',
      'ce-id': '1234-1234-1234',
      'ce-source': '/mycontext/subcontext',
      'Content-Type': 'application/json; charset=utf-8',
    };
    expect(parseCloudEvent(headers, '{"a":1}')).toEqual({
      ok: true,
      event: {
        specversion: '1.0',
        type: 'com.example.someevent',
        time: '2018-04-05T03:56:24Z',
        id: '1234-1234-1234',
        source: '/mycontext/subcontext',
        datacontenttype: 'application/json; charset=utf-8',
        data: { a: 1 },
        extensions: {},
      },
    });
  });

  test('structured content mode', () => {
    const parsed = parseCloudEvent(
      { 'content-type': 'application/cloudevents+json; charset=utf-8' },
      JSON.stringify(structured),
    );
    expect(parsed).toMatchObject({
      ok: true,
      event: { id: '1234-1234-1234', data: structured.data, extensions: { comexampleextension1: 'value' } },
    });
  });

  test('header values are percent-encoded UTF-8 (3.1.3.2): “Euro € 😀”', () => {
    const parsed = parseCloudEvent(
      {
        'ce-specversion': '1.0',
        'ce-id': 'Euro%20%E2%82%AC%20%F0%9F%98%80',
        'ce-source': '/s',
        'ce-type': 't',
      },
      '',
    );
    expect(parsed).toMatchObject({ ok: true, event: { id: 'Euro € 😀' } });
  });
});

describe('the package reads the same from the same message', () => {
  const event = new PackageEvent({
    id: 'e-7',
    source: '/freight-desk',
    type: 'booking.updated',
    subject: 'B-1',
    time: '2026-03-09T22:30:00.000Z',
    sequence: '0004',
    data: { record: { remark: 'Øster “quay”' } },
  });
  test.each([
    ['structured', HTTP.structured(event)],
    ['binary', HTTP.binary(event)],
  ])('%s', (_mode, message) => {
    const parsed = parseCloudEvent(message.headers as Record<string, string>, String(message.body));
    expect(parsed).toMatchObject({
      ok: true,
      event: {
        id: event.id,
        source: event.source,
        type: event.type,
        subject: 'B-1',
        time: event.time,
        data: event.data,
        extensions: { sequence: '0004' },
      },
    });
  });
});

describe('a message that is no change event says what is wrong', () => {
  const json = { 'content-type': 'application/cloudevents+json' };
  test.each([
    [json, '{', /^The body is not JSON: /],
    [json, '[]', /^The body is not a JSON object/],
    [json, JSON.stringify({ ...structured, id: undefined }), /"id" is required/],
    [json, JSON.stringify({ ...structured, specversion: '0.3' }), /"specversion" must be \[1.0\]/],
    [json, JSON.stringify({ ...structured, time: '2018-04-05T03:56:24' }), /date-time of RFC 3339/],
    [json, JSON.stringify({ ...structured, data_base64: 'AA==' }), /data_base64/],
    [{ 'content-type': 'application/cloudevents-batch+json' }, '[]', /Batches/],
    [{ 'content-type': 'application/json' }, '{}', /no CloudEvent/],
    [{ 'ce-specversion': '1.0', 'ce-id': '%FF' }, '', /not percent-encoded/],
  ])('%#', (headers, body, because) => {
    const parsed = parseCloudEvent(headers, body);
    expect(parsed.ok ? 'accepted' : parsed.because).toMatch(because);
  });
});
