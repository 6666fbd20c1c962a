import type { Application, Document } from '../kit/definition';
import { Random } from '../seed/random';
import { ports } from '../seed/skerry';
import { fleetLogRecords } from './definition';
import { fleetLogDialect } from './dialect';

const vessels = [
  ['Skerry Dawn', 'SKDA'],
  ['Skerry Dusk', 'SKDU'],
  ['Gullpoint Maid', 'GUMA'],
  ['Holm Trader', 'HOTR'],
  ['Eider', 'EIDR'],
  ['Long Stack', 'LOST'],
  ['Murrow Packet', 'MUPA'],
  ['Westering', 'WEST'],
] as const;
const officers = [
  'Eskil Kvale',
  'Fenna Mouat',
  'Hamish Rendall',
  'Isla Petrie',
  'Jarl Tulloch',
  'Runa Velzian',
];
const remarks = [
  'All in order.',
  'Two life jackets short.',
  'Ramp hinge worn.',
  'Paint flaking on the port side.',
];

/** Where Skerry Line logs its vessels and what they sail. */
export const fleetLog: Application = {
  dialect: fleetLogDialect,
  records: fleetLogRecords,
  seed() {
    const random = new Random(31);
    const port = () => random.pick(ports).code;
    const voyages = vessels.flatMap((_vessel, at) =>
      Array.from({ length: 5 }, (_none, number): Document => {
        const own = at * 5 + number;
        const master = random.pick(officers);
        return {
          'Voyage No': `${2601 + own}`,
          Vessel: `V-${11 + at}`,
          ...(number > 0 && { 'Previous Voyage': `VY-${5001 + own - 1}` }),
          'From Port Code': port(),
          'To Port Code': port(),
          'Sails On': day(1 + random.below(28), 1 + number),
          'Status Code': number < 3 ? 'F' : number === 3 ? 'S' : 'P',
          'Master Name': master,
          Master: `OF-${301 + officers.indexOf(master)}`,
        };
      }),
    );
    return new Map<string, readonly Document[]>([
      [
        'vessel',
        vessels.map(([name, code], at) => ({
          'Vessel Name': name,
          'Vessel Code': code,
          'Status Code': 'A',
          'Last Voyage No': `${2603 + at * 5}`,
          'Last Port Code': port(),
          'Log Code': `${code}N0${String(10 + at)}-X${at}`,
          ...(at % 2 === 0 && { 'Old Call Sign': `Q${code.slice(0, 2)}${at}` }),
          ...(at % 3 === 0 && { 'Old Radio': `CH ${10 + at}` }),
        })),
      ],
      ['officer', officers.map((name, at) => ({ 'Officer Name': name, 'Rank Code': at < 4 ? 'M' : 'C' }))],
      ['voyage', voyages],
      [
        'inspection',
        vessels.map((_vessel, at) => ({
          'Inspection No': `I-${at + 1}`,
          Vessel: `V-${11 + at}`,
          'Inspected On': day(1 + random.below(28), 1),
          'Grade Code': random.pick(['G', 'G', 'F']),
          'Inspector Remark': random.pick(remarks),
        })),
      ],
    ]);
  },
};

function day(date: number, month: number): string {
  return `${String(date).padStart(2, '0')}/${String(month).padStart(2, '0')}/2026`;
}
