import type { RecordDefinition } from '../kit/definition';

export const noticePostRecords: readonly RecordDefinition[] = [
  {
    type: 'message',
    path: 'messages',
    title: 'Message',
    idPrefix: 'N-',
    firstId: 1,
    nameField: 'about',
    indexed: ['messageId'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['about', 'signature'],
      properties: {
        messageId: { type: 'string', title: 'Message id', maxLength: 80 },
        about: { type: 'string', title: 'About', maxLength: 200 },
        type: { type: 'string', title: 'Type', maxLength: 120 },
        signature: { type: 'string', title: 'Signature', maxLength: 200 },
        text: { type: 'string', title: 'Text', maxLength: 4000 },
      },
    },
  },
];
