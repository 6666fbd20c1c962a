import {
  draftFindings,
  systemOfDraft,
  type DraftFinding,
  type DraftView,
  type System,
} from '@vast-knot/core';
import { inTransaction, type Client, type Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { forgetImages } from '../images/images';
import { queueConnecting } from '../systems/connecting';
import { forgetHeard } from '../systems/listening';
import { addSystem, changeSystem, keepSecret, readSystems, removeSystem } from '../systems/repository';
import { draftOfSystem } from './begin';
import { insertDraft, lockDraft, openDraftSecrets, removeDraft } from './repository';

/** Returns what is not right yet in a draft, beside the systems that there are. */
export function findingsOfDraft(
  { draft, system }: DraftView,
  systems: readonly System[],
): readonly DraftFinding[] {
  const others = systems.filter(({ key }) => key !== system);
  return draftFindings(draft, others);
}

/** What became of a start. */
export type Started =
  | { readonly is: 'started'; readonly key: string }
  /** Somebody else changed or started the draft in the same moment. */
  | { readonly is: 'moved' }
  /** Another system took its key in the same moment. */
  | { readonly is: 'taken' };

/**
 * Makes a draft without findings the system that it describes, or gives the system that it changes what it says. Its records are learnt
 * next, and from then on its changes are taken. A draft that is started twice in the same moment is started once.
 */
export async function startDraft(pool: Pool, seal: Seal, view: DraftView): Promise<Started> {
  const { id, draft, system } = view;
  const definition = systemOfDraft(draft);
  const key = system ?? definition.key;
  return inTransaction(pool, async (client): Promise<Started> => {
    const locked = await lockDraft(client, view);
    if (!locked) return { is: 'moved' };
    const secrets = await openDraftSecrets(client, seal, view);
    const kept = { definition: { ...definition, key }, connection: draft.connection };
    if (system !== null) await changeSystem(client, kept);
    else if (!(await addSystem(client, kept))) return { is: 'taken' };
    // What was seen of another system that once had this key says nothing of this one.
    else if (locked.wayBack !== key) {
      await forgetHeard(client, key);
      await forgetImages(client, key);
    }
    for (const [name, value] of Object.entries(secrets))
      await keepSecret(client, seal, { system: key, name, value });
    await removeDraft(client, id);
    await queueConnecting(client, key);
    return { is: 'started', key };
  });
}

/**
 * Takes a system out. What it was is kept as a draft, with its secrets, from which it can be started again. Returns the id of the draft;
 * undefined for a system that only tells, and belongs to the installation.
 */
export async function takeOut(
  client: Client,
  seal: Seal,
  { key, by }: { readonly key: string; readonly by: string },
): Promise<string | undefined> {
  const [kept] = await readSystems(client, seal, [key]);
  if (!kept || kept.connection.kind === 'inlet') return undefined;
  const { definition, connection, secrets } = kept;
  const origin = `${definition.name} as it was when it was taken out.`;
  const draft = draftOfSystem({ definition, connection }, origin);
  const id = await insertDraft(client, seal, { draft, system: null, by, secrets, wayBack: key });
  await removeSystem(client, key);
  return id;
}
