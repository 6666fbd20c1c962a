import type { RecordDefinition } from '../kit/definition';

export const bookingStates = ['quoted', 'open', 'confirmed', 'closed'] as const;

export const freightDeskRecords: readonly RecordDefinition[] = [
  {
    type: 'party',
    path: 'parties',
    title: 'Party',
    idPrefix: '40',
    firstId: 1001,
    nameField: 'name',
    indexed: ['customerNumber'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['name'],
      properties: {
        customerNumber: { type: 'string', title: 'Customer number', maxLength: 12 },
        name: { type: 'string', title: 'Name', minLength: 1, maxLength: 60 },
        phone: { type: 'string', title: 'Phone', pattern: '^\\+[0-9]{6,15}$', maxLength: 16 },
        street: { type: 'string', title: 'Street', maxLength: 60 },
        town: { type: 'string', title: 'Town', maxLength: 30 },
        countryCode: {
          type: 'string',
          title: 'Country',
          pattern: '^[A-Z]{3}$',
          maxLength: 3,
          description: 'ISO 3166-1 alpha-3',
        },
        accountCode: { type: 'string', title: 'Account code', maxLength: 10 },
        onHold: { type: 'boolean', title: 'On hold' },
      },
    },
  },
  {
    type: 'contact',
    path: 'contacts',
    title: 'Contact',
    idPrefix: '50',
    firstId: 1001,
    nameField: 'fullName',
    indexed: ['partyId'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['fullName', 'partyId'],
      properties: {
        partyId: { type: 'string', title: 'Party' },
        fullName: { type: 'string', title: 'Full name', minLength: 1, maxLength: 60 },
        email: { type: 'string', title: 'E-mail', maxLength: 120 },
      },
    },
  },
  {
    type: 'booking',
    path: 'bookings',
    title: 'Booking',
    idPrefix: 'BK',
    firstId: 70001,
    nameField: 'title',
    indexed: ['partyId'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['partyId', 'title', 'status'],
      properties: {
        partyId: { type: 'string', title: 'Party' },
        contactId: { type: 'string', title: 'Contact' },
        title: { type: 'string', title: 'Title', minLength: 1, maxLength: 80 },
        status: { type: 'string', title: 'Status', enum: bookingStates },
        originPort: { type: 'string', title: 'Origin port', maxLength: 5 },
        destinationPort: { type: 'string', title: 'Destination port', maxLength: 5 },
        tariffZone: { type: 'string', title: 'Tariff zone', maxLength: 3 },
        contactPhone: { type: 'string', title: 'Contact phone', pattern: '^\\+[0-9]{6,15}$', maxLength: 16 },
        collectionTown: { type: 'string', title: 'Collection town', maxLength: 30 },
        collectionDate: { type: 'string', format: 'date', title: 'Collection date' },
        valueMinor: { type: 'integer', title: 'Value in minor units', minimum: 0 },
        currency: { type: 'string', title: 'Currency', pattern: '^[A-Z]{3}$', maxLength: 3 },
      },
    },
  },
];
