export { fieldsOfSchema } from './fieldsOfSchema';
export type { Proposal, ProposedType, Reason } from './proposal';
export { proposeFromOpenApi, type ProposedFromDocument } from './openApi/propose';
export { proposeFromRecords, type GivenRecords, type ProposedFromRecords } from './records/propose';
export { proposeFromJsonSchema } from './jsonSchema';
export { labelOf, pluralLabel } from './words';
export { foundSentence, type FoundPage } from './foundSentence';
export { refreshed, schemaChanges, type LearntType, type SchemaChange } from './difference';
