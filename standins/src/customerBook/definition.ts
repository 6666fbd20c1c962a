import type { RecordDefinition } from '../kit/definition';

const address = {
  type: 'object',
  title: 'Address',
  additionalProperties: false,
  properties: {
    street: { type: 'string', title: 'Street', maxLength: 80 },
    postcode: { type: 'string', title: 'Postcode', maxLength: 12 },
    town: { type: 'string', title: 'Town', maxLength: 60 },
    country: {
      type: 'string',
      title: 'Country',
      pattern: '^[A-Z]{2}$',
      maxLength: 2,
      description: 'ISO 3166-1 alpha-2',
    },
  },
} as const;

export const customerBookRecords: readonly RecordDefinition[] = [
  {
    type: 'company',
    path: 'companies',
    title: 'Company',
    idPrefix: 'C-',
    firstId: 1001,
    nameField: 'name',
    indexed: ['name'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['name', 'status'],
      properties: {
        name: { type: 'string', title: 'Name', minLength: 1, maxLength: 80 },
        phone: { type: 'string', title: 'Phone', maxLength: 40 },
        email_domain: { type: 'string', title: 'E-mail domain', maxLength: 80 },
        address,
        credit_terms: {
          type: 'string',
          title: 'Credit terms',
          enum: ['prepaid', 'net_14', 'net_30', 'net_60'],
        },
        account_number: { type: 'string', title: 'Account number', maxLength: 12 },
        status: { type: 'string', title: 'Status', enum: ['prospect', 'active', 'dormant'] },
        customer_since: { type: 'string', format: 'date', title: 'Customer since' },
        main_contact: { type: 'string', title: 'Main contact', maxLength: 80 },
        last_shipment: { type: 'string', format: 'date', title: 'Last shipment' },
        remark: { type: 'string', title: 'Remark', maxLength: 400 },
      },
    },
  },
  {
    type: 'person',
    path: 'people',
    title: 'Person',
    idPrefix: 'P-',
    firstId: 2001,
    nameField: 'last_name',
    indexed: ['company_id'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['last_name'],
      properties: {
        company_id: { type: 'string', title: 'Company' },
        company_name: { type: 'string', title: 'Company name', maxLength: 80 },
        first_name: { type: 'string', title: 'First name', maxLength: 40 },
        last_name: { type: 'string', title: 'Last name', minLength: 1, maxLength: 40 },
        email: { type: 'string', title: 'E-mail', format: 'email', maxLength: 120 },
        phone: { type: 'string', title: 'Phone', maxLength: 40 },
        address,
        role: { type: 'string', title: 'Role', maxLength: 40 },
      },
    },
  },
];
