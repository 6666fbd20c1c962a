import { Workbook } from 'exceljs';
import { until, World } from './harness';

jest.setTimeout(60_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

const linesOf = (csv: string) => csv.replace('\ufeff', '').trim().split('\r\n');
const asCsv = async (path: string) => linesOf((await world.send<string>('GET', path)).body);

test('records of a type are given as they are narrowed, in each format alike', async () => {
  const path = '/lists/records/freight-desk/booking?field=status&value=open';
  const csv = await asCsv(`${path}&as=csv`);
  expect(csv[0]).toMatch(/^Id,Party,/);
  const jsonl = (await world.send<string>('GET', `${path}&as=json%20lines`)).body.trim().split('\n');
  const bookings = jsonl.map((line) => JSON.parse(line) as { id: string; status: string });
  expect(bookings.length).toBe(csv.length - 1);
  expect(new Set(bookings.map(({ status }) => status))).toEqual(new Set(['open']));
  const book = new Workbook();
  await book.xlsx.load(Buffer.from(await world.file(`${path}&as=xlsx`)) as unknown as ArrayBuffer);
  const sheet = book.worksheets[0];
  expect(sheet?.rowCount).toBe(csv.length);
  expect(sheet?.getCell(2, 1).value).toBe(bookings[0]?.id);
});

test('runs, messages, findings and tables are given as files', async () => {
  await world.changeCompany('C-1001', { phone: '01632 960 477' });
  const runs = await until('the run', async () => {
    const lines = await asCsv('/lists/runs?system=customer-book&result=wrote');
    return lines.length > 1 && lines;
  });
  expect(runs[0]).toBe('Run,Came,System,Record type,Record,What,Changed,State,Result,Why,Rules,Writes,Ended');
  expect(runs[1]).toMatch(/,customer-book,company,C-1001,updated,phone,done,wrote,/);
  expect((await asCsv('/lists/runs?system=nowhere')).length).toBe(1);
  expect((await asCsv('/lists/messages'))[0]).toContain('Message,Made,Rule');
  const findings = await asCsv('/lists/findings');
  expect(findings[0]).toBe('Rule,Severity,Kind,Where,What,Rule id');
  expect(findings.length).toBeGreaterThan(5);
  expect((await asCsv('/lists/tables/Countries%20to%20regions'))[0]).toContain(',');
  expect((await world.api('GET', '/lists/tables/Nothing')).status).toBe(404);
  expect((await world.api('GET', '/lists/runs?as=pdf')).status).toBe(422);
});
