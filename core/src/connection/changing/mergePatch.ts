import Joi from 'joi';
import { aloneMembers, mergePatchOf, type AloneChanging, type AloneStyle } from './changing';

/** The fields that change, as a JSON Merge Patch (RFC 7396). */
export interface MergePatchChanging extends AloneChanging {
  readonly kind: 'merge patch';
  /** `application/json`, for systems that do not know the type of a merge patch. */
  readonly mediaType?: string;
}

export const mergePatch: AloneStyle<MergePatchChanging> = {
  kind: 'merge patch',
  label: 'by sending the fields that change',
  meaning:
    'The fields that change are sent, and null for those that become blank (JSON Merge Patch, RFC 7396).',
  schema: Joi.object<MergePatchChanging>({
    kind: Joi.valid('merge patch').required(),
    mediaType: Joi.string().max(100),
    ...aloneMembers,
  }),
  method: 'PATCH',
  mediaType: 'application/merge-patch+json',
  body: ({ edits }) => mergePatchOf(edits),
};
