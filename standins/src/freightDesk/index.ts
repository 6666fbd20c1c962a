import type { Application, Document } from '../kit/definition';
import { Random } from '../seed/random';
import { customers, ports, type Customer } from '../seed/skerry';
import { cargoLabels, freightDeskRecords } from './definition';
import { freightDeskDialect } from './dialect';

const goods = [
  'Frozen cod',
  'Sawn larch',
  'Wool bales',
  'Barrel salt',
  'Live mussels',
  'Oat feed',
  'Slate',
  'Ale casks',
  'Rope coils',
  'Milk powder',
];

/** Where Skerry Line takes bookings. */
export const freightDesk: Application = {
  dialect: freightDeskDialect,
  records: freightDeskRecords,
  seed() {
    const random = new Random(11);
    // Of their own, so that the other values stay as they are whatever becomes of these.
    const loads = new Random(23);
    const lines = new Random(31);
    const all = customers();
    const parties = all.map((customer, at): Document => ({
      customerNumber: customer.number,
      name: customer.name,
      phone: international(customer.phone),
      street: customer.street,
      town: customer.town,
      countryCode: 'GBR',
      accountCode: customer.name.replaceAll(' ', '').slice(0, 4).toUpperCase(),
      onHold: false,
      ...mailDomainOf(customer, at),
    }));
    const contacts: Document[] = [];
    const bookings: Document[] = [];
    all.forEach((customer, at) => {
      const partyId = `40${1001 + at}`;
      const firstContact = contacts.length;
      contacts.push(
        ...customer.people.map(({ first, last }) => ({
          partyId,
          fullName: `${first} ${last}`,
          email: `${first}.${last}@${customer.domain}`.toLowerCase(),
        })),
      );
      for (let count = 1 + random.below(6); count > 0; count--) {
        const destination = random.pick(ports);
        const contact = firstContact + random.below(customer.people.length);
        bookings.push({
          partyId,
          contactId: `50${1001 + contact}`,
          title: `${random.pick(goods)} to ${destination.name}`,
          status: random.pick(['quoted', 'open', 'open', 'confirmed', 'closed']),
          originPort: random.pick(ports).code,
          destinationPort: destination.code,
          ...(random.chance(0.6) && { tariffZone: random.pick(['N1', 'N2', 'W1', 'W2', 'S1']) }),
          contactPhone: international(customer.phone),
          collectionTown: customer.town,
          collectionDate: `2026-${String(1 + random.below(12)).padStart(2, '0')}-${String(1 + random.below(28)).padStart(2, '0')}`,
          valueMinor: 5000 + random.below(900_000),
          currency: 'GBP',
          ...(loads.chance(0.7) && { weightKg: 80 + loads.below(14_000) }),
          ...(loads.chance(0.5) && { cargoLabels: cargoLabels.filter(() => loads.chance(0.3)) }),
          ...(lines.chance(0.4) && { cargoLines: cargoLinesOf(lines) }),
        });
      }
    });
    return new Map([
      ['party', parties],
      ['contact', contacts],
      ['booking', bookings],
      ['unit', []],
      ['enquiry', enquiries(all)],
    ]);
  },
};

/** Returns what is packed for a booking; no container has been assigned to it yet. */
function cargoLinesOf(random: Random): readonly Document[] {
  return Array.from({ length: 1 + random.below(4) }, (_none, at) => ({
    lineNo: at + 1,
    goods: random.pick(goods),
    packages: 1 + random.below(40),
    grossKg: 50 + random.below(9000),
  }));
}

function international(phone: string): string {
  return `+44${phone.replaceAll(' ', '').slice(1)}`;
}

/** Returns what people asked by mail; nobody has looked for their party yet. */
function enquiries(all: readonly Customer[]): readonly Document[] {
  return all.slice(100, 106).map(({ domain, people: [person] }, at) => ({
    subject: `${goods[at] ?? ''}: what would it cost?`,
    email: `${person?.first ?? 'desk'}@${domain}`.toLowerCase(),
    status: 'new',
  }));
}

/** The desk wrote down the domain of its later customers, and now and then with the @ before it. */
function mailDomainOf({ domain }: Customer, at: number): Document {
  return at < 100 ? {} : { mailDomain: at % 7 === 0 ? `@${domain}` : domain };
}
