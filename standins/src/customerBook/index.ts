import type { Application, Document } from '../kit/definition';
import { Random } from '../seed/random';
import { customers, type Customer } from '../seed/skerry';
import { customerBookRecords } from './definition';
import { customerBookDialect } from './dialect';

/** Where Skerry Line keeps its customers. */
export const customerBook: Application = {
  dialect: customerBookDialect,
  records: customerBookRecords,
  seed() {
    const random = new Random(7);
    const all = customers();
    const companies = all.map((customer): Document => ({
      name: customer.name,
      phone: customer.phone,
      email_domain: customer.domain,
      address: { street: customer.street, postcode: customer.postcode, town: customer.town, country: 'GB' },
      credit_terms: random.pick(['prepaid', 'net_14', 'net_30', 'net_60']),
      account_number: `${customer.name.replaceAll(' ', '').slice(0, 4).toUpperCase()}-${customer.number.slice(2)}`,
      status: random.chance(0.85) ? 'active' : random.pick(['prospect', 'dormant']),
      ...mainContact(customer),
      customer_since: `${2009 + random.below(16)}-${String(1 + random.below(12)).padStart(2, '0')}-${String(1 + random.below(28)).padStart(2, '0')}`,
    }));
    const people = all.flatMap((customer) =>
      customer.people.map(({ first, last, role }): Document => ({
        company_id: customer.number,
        ...(random.chance(0.7) && { company_name: customer.name }),
        first_name: first,
        last_name: last,
        email: `${first}.${last}@${customer.domain}`.toLowerCase(),
        phone: customer.phone,
        address: { street: customer.street, postcode: customer.postcode, town: customer.town, country: 'GB' },
        role,
      })),
    );
    return new Map([
      ['company', companies],
      ['person', people],
    ]);
  },
};

function mainContact({ people: [person] }: Customer): Document {
  return person ? { main_contact: `${person.first} ${person.last}` } : {};
}
