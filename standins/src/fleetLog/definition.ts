import type { RecordDefinition } from '../kit/definition';

/** Codes as the log has them: one letter each. */
const vesselStates = ['A', 'H', 'R'] as const;
const voyageStates = ['P', 'S', 'F'] as const;
const grades = ['G', 'F', 'P'] as const;

const day = {
  type: 'string',
  pattern: '^[0-9]{2}/[0-9]{2}/[0-9]{4}$',
  maxLength: 10,
  description: 'dd/mm/yyyy',
};
const text = (title: string, maxLength: number) => ({ type: 'string', title, maxLength });

export const fleetLogRecords: readonly RecordDefinition[] = [
  {
    type: 'vessel',
    path: 'Vessels',
    title: 'Vessel',
    idPrefix: 'V-',
    firstId: 11,
    nameField: 'Vessel Name',
    indexed: [],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['Vessel Name', 'Vessel Code'],
      properties: {
        'Vessel Name': { ...text('Vessel Name', 40), minLength: 1 },
        'Vessel Code': text('Vessel Code', 4),
        'Status Code': { type: 'string', title: 'Status Code', enum: vesselStates },
        'Hold Remark': text('Hold Remark', 80),
        'Last Voyage No': text('Last Voyage No', 10),
        'Last Port Code': text('Last Port Code', 5),
        'Log Code': text('Log Code', 12),
        'Old Call Sign': text('Old Call Sign', 10),
        'Old Radio': text('Old Radio', 10),
      },
    },
  },
  {
    type: 'officer',
    path: 'Officers',
    title: 'Officer',
    idPrefix: 'OF-',
    firstId: 301,
    nameField: 'Officer Name',
    indexed: [],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['Officer Name'],
      properties: {
        'Officer Name': { ...text('Officer Name', 60), minLength: 1 },
        'Rank Code': { type: 'string', title: 'Rank Code', enum: ['M', 'C', 'E'] },
      },
    },
  },
  {
    type: 'voyage',
    path: 'Voyages',
    title: 'Voyage',
    idPrefix: 'VY-',
    firstId: 5001,
    nameField: 'Voyage No',
    indexed: ['Vessel'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['Voyage No', 'Vessel'],
      properties: {
        'Voyage No': { ...text('Voyage No', 10), minLength: 1 },
        Vessel: { type: 'string', title: 'Vessel' },
        'Previous Voyage': { type: 'string', title: 'Previous Voyage' },
        'From Port Code': text('From Port Code', 5),
        'To Port Code': text('To Port Code', 5),
        'Sails On': { ...day, title: 'Sails On' },
        'Status Code': { type: 'string', title: 'Status Code', enum: voyageStates },
        'Master Name': text('Master Name', 60),
        Master: { type: 'string', title: 'Master' },
        Remark: text('Remark', 120),
      },
    },
  },
  {
    type: 'inspection',
    path: 'Inspections',
    title: 'Inspection',
    idPrefix: 'IN-',
    firstId: 801,
    nameField: 'Inspection No',
    indexed: ['Vessel'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['Inspection No', 'Vessel'],
      properties: {
        'Inspection No': { ...text('Inspection No', 10), minLength: 1 },
        Vessel: { type: 'string', title: 'Vessel' },
        'Inspected On': { ...day, title: 'Inspected On' },
        'Grade Code': { type: 'string', title: 'Grade Code', enum: grades },
        'Inspector Remark': text('Inspector Remark', 200),
      },
    },
  },
];
