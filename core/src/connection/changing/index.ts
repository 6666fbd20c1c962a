import { schemaOfFamily, type Style } from '../style';
import { bulk, type BulkChanging } from './bulk';
import type { AloneStyle } from './changing';
import { jsonPatch, type JsonPatchChanging } from './jsonPatch';
import { mergePatch, type MergePatchChanging } from './mergePatch';
import { wholeRecord, type WholeChanging } from './wholeRecord';

export type { BulkChanging } from './bulk';
export { mergePatchOf } from './changing';

/** A record changed with a request of its own. */
export type ChangingAlone = MergePatchChanging | JsonPatchChanging | WholeChanging;
/** How records are changed. */
export type Changing = ChangingAlone | BulkChanging;

const alone = [mergePatch, jsonPatch, wholeRecord] as unknown as readonly AloneStyle<ChangingAlone>[];

/** The styles of changing, in the order in which they are offered. */
export const changings: readonly Style<Changing>[] = [...alone, bulk] as readonly Style<Changing>[];

export const changingSchema = schemaOfFamily(changings);

/** Returns the style of one that changes a record with a request of its own. */
export function aloneStyle(changing: ChangingAlone): AloneStyle<ChangingAlone> {
  return (
    alone.find(({ kind }) => kind === changing.kind) ?? (mergePatch as unknown as AloneStyle<ChangingAlone>)
  );
}
