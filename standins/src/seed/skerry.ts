import { Random } from './random';

/**
 * The customers of Skerry Line, from which both applications take their records. All of it is invented: domains end in
 * `.example` (RFC 2606), telephone numbers lie in the range 01632 960000 to 960999 that is kept free for drama.
 */
export interface Customer {
  readonly number: string;
  readonly name: string;
  readonly phone: string;
  readonly domain: string;
  readonly street: string;
  readonly postcode: string;
  readonly town: string;
  readonly people: readonly { readonly first: string; readonly last: string; readonly role: string }[];
}

export interface Port {
  readonly code: string;
  readonly name: string;
}

/** Port codes begin with QS, from the letters that ISO 3166 leaves to its users. */
export const ports: readonly Port[] = [
  { code: 'QSNOR', name: 'Northport' },
  { code: 'QSHOL', name: 'Holm Haven' },
  { code: 'QSGUL', name: 'Gullpoint' },
  { code: 'QSTAR', name: 'Tarn Quay' },
  { code: 'QSWES', name: 'Westerness' },
  { code: 'QSLON', name: 'Longstack' },
  { code: 'QSEID', name: 'Eider Bay' },
  { code: 'QSMUR', name: 'Murrow' },
];

const places = [
  'North Skerry',
  'Holm',
  'Gullpoint',
  'Tarn Quay',
  'Westerness',
  'Longstack',
  'Eider Bay',
  'Murrow',
  'Seal Sound',
  'Kelpwick',
  'Outer Stack',
  'Fulmar Head',
  'Low Geo',
  'Samphire',
  'Brackenness',
  'Dunlin',
  'Puffin Row',
  'Marram',
];
const trades = [
  'Fish',
  'Cold Store',
  'Timber',
  'Woollens',
  'Boatyard',
  'Dairy',
  'Seaweed',
  'Quarry',
  'Brewing',
  'Bakery',
  'Salt Works',
  'Smokehouse',
  'Ropes',
  'Feed Mill',
  'Glasshouse',
];
const streets = [
  'Harbour Street',
  'Quay Road',
  'Chapel Lane',
  'Ropewalk',
  'Net Loft Row',
  'Shore Road',
  'Mill Brae',
  'Light Lane',
];
const firsts = [
  'Ailsa',
  'Bram',
  'Catrin',
  'Dagny',
  'Eskil',
  'Fenna',
  'Gudrun',
  'Hamish',
  'Isla',
  'Jarl',
  'Kirsti',
  'Lorne',
  'Mairi',
  'Njal',
  'Oona',
  'Per',
  'Runa',
  'Sorley',
  'Torvald',
  'Una',
];
const lasts = [
  'Garrick',
  'Holmsen',
  'Isbister',
  'Jarvie',
  'Kvale',
  'Linklater',
  'Mouat',
  'Norquoy',
  'Ollason',
  'Petrie',
  'Rendall',
  'Sclater',
  'Tulloch',
  'Velzian',
  'Whitelaw',
  'Yorston',
];
const roles = ['Dispatch', 'Accounts', 'Yard', 'Owner', 'Sales'];

/** 240 customers, always the same. */
export function customers(): readonly Customer[] {
  const random = new Random(1840);
  const names = places.flatMap((place) => trades.map((trade) => `${place} ${trade}`));
  return shuffled(names, random)
    .slice(0, 240)
    .map((name, at): Customer => {
      const people = Array.from({ length: 1 + random.below(3) }, () => ({
        first: random.pick(firsts),
        last: random.pick(lasts),
        role: random.pick(roles),
      }));
      const domain = `${name.toLowerCase().replaceAll(' ', '-')}.example`;
      return {
        number: `C-${1001 + at}`,
        name,
        phone: `01632 960 ${String(100 + at).padStart(3, '0')}`,
        domain,
        street: `${1 + random.below(80)} ${random.pick(streets)}`,
        postcode: `QS${1 + random.below(8)} ${1 + random.below(9)}SL`,
        town: random.pick(ports).name,
        people,
      };
    });
}

function shuffled<T>(items: readonly T[], random: Random): T[] {
  const rest = [...items];
  return items.map(() => {
    const [item] = rest.splice(random.below(rest.length), 1);
    if (item === undefined) throw new Error('shuffled too far');
    return item;
  });
}
