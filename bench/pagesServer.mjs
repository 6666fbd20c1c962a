import { createServer } from 'node:http';

/** As many records as it is told, a page of five hundred at a time, by offset. The pages are made before anything is measured. */
const count = Number(process.argv[2]);
const size = 500;
const recordAt = (at) => ({
  id: `P-${at}`,
  name: `Pier ${at}`,
  town: `Town ${at % 97}`,
  phone: `01632 960 ${String(at % 1000).padStart(3, '0')}`,
  depth: (at % 40) / 4,
  open: at % 2 === 0,
  place: { quay: at % 12, side: at % 3 === 0 ? 'north' : 'south' },
  remark: 'Nothing stays here over night without a light.',
});
const pages = new Map();
for (let at = 0; at <= count; at += size)
  pages.set(
    String(at),
    // As it is sent, so that giving a page costs nothing.
    Buffer.from(
      JSON.stringify({
        total: count,
        data: Array.from({ length: Math.min(size, count - at) }, (_none, of) => recordAt(at + of)),
      }),
    ),
  );
const server = createServer((request, response) => {
  const offset = new URL(request.url, 'http://here').searchParams.get('offset') ?? '0';
  response.writeHead(200, { 'content-type': 'application/json' }).end(pages.get(offset) ?? '{"data":[]}');
});
// It ends with whoever started it.
process.on('disconnect', () => process.exit());
server.listen(0, '127.0.0.1', () => process.send?.(server.address().port));
