import Joi from 'joi';
import { writePath } from '../../model/json';
import { aloneMembers, type AloneChanging, type AloneStyle } from './changing';

/** The whole record, as it is to be. */
export interface WholeChanging extends AloneChanging {
  readonly kind: 'whole record';
}

export const wholeRecord: AloneStyle<WholeChanging> = {
  kind: 'whole record',
  label: 'by sending the whole record',
  meaning: 'The record is read, changed, and sent as a whole; fields that no schema knows go with it.',
  schema: Joi.object<WholeChanging>({ kind: Joi.valid('whole record').required(), ...aloneMembers }),
  method: 'PUT',
  mediaType: 'application/json',
  needsRecord: true,
  body: ({ edits, now = {} }) =>
    edits.reduce((record, { path, after }) => writePath(record, path, after ?? null), now),
};
