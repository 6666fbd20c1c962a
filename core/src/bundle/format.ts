import { isJsonObject } from '../model/json';

/** The version of the format in which bundles are written. */
export const bundleFormat = 2;

/** What is other in a file of an older format than it was written, in sentences. */
export interface Upgraded {
  readonly file: string;
  readonly changes: readonly string[];
}

type Members = Readonly<Record<string, unknown>>;

/** How a bundle of one version becomes one of the next: one for each version that there was. */
const steps: Readonly<Record<number, (bundle: Members) => { json: Members; changes: readonly string[] }>> = {
  /** Addresses that rules send to were not named, and rules stood in no folder. */
  1: (bundle) => {
    const rules = membersIn(bundle['rules']);
    const sent = rules.flatMap(({ rule }) =>
      isJsonObject(rule) ? membersIn(rule['actions']).flatMap(({ endpoint }) => endpoint) : [],
    );
    const keys = [...new Set(sent.filter((key) => typeof key === 'string'))].sort();
    return {
      json: {
        ...bundle,
        vastKnot: 2,
        ...(keys.length > 0 && { addresses: keys.map((key) => ({ key, name: key })) }),
      },
      changes: [
        'It is of format 1, and is read as format 2.',
        ...(keys.length > 0
          ? [`The outside addresses that its rules send to are named: ${keys.join(', ')}.`]
          : []),
        ...(rules.length > 0 ? ['Its rules stand in no folder.'] : []),
      ],
    };
  },
};

/** Returns a bundle as this version of the format has it, with what is other in it; what is no bundle comes back as it is. */
export function inThisFormat(json: unknown): { readonly json: unknown; readonly changes: readonly string[] } {
  const changes: string[] = [];
  let bundle = json;
  while (isJsonObject(bundle) && typeof bundle['vastKnot'] === 'number') {
    const step = steps[bundle['vastKnot']];
    if (!step) break;
    const next = step(bundle);
    changes.push(...next.changes);
    bundle = next.json;
  }
  return { json: bundle, changes };
}

function membersIn(list: unknown): readonly Members[] {
  return Array.isArray(list) ? list.filter((each) => isJsonObject(each)) : [];
}
