import { canonicalText } from './canonical';
import { bundleFormat } from './format';
import type { Bundle, WholeBundle } from './bundle';

/** A file of a folder that holds bundles. */
export interface BundleFile {
  /** Below the folder, with `/` between: `rules/phone-to-bookings.json`. */
  readonly path: string;
  readonly text: string;
}

/** The folders of a pulled bundle: whatever stands in one of them belongs to it. */
export const bundleFolders = ['systems', 'addresses', 'tables', 'rules', 'samples'] as const;

/**
 * Returns a bundle as files made for version control: one for each system, address, table, rule and sample, named after it. The same
 * content is the same bytes; where two would have one name the id stands in both.
 */
export function bundleFiles(bundle: WholeBundle): readonly BundleFile[] {
  return [
    ...filesIn('systems', bundle.systems, ({ system }) => [system.key, system.key]),
    ...filesIn('addresses', bundle.addresses, ({ key }) => [key, key]),
    ...filesIn('tables', bundle.tables, ({ name }) => [name, name]),
    ...filesIn('rules', bundle.rules, ({ id, rule }) => [rule.name, id]),
    ...filesIn('samples', bundle.samples, ({ id, name }) => [name, id]),
  ];
}

/** Returns a bundle as one file. */
export function bundleText(bundle: WholeBundle): string {
  const parts = bundleFolders.flatMap((part) => (bundle[part].length > 0 ? [[part, bundle[part]]] : []));
  return canonicalText({ vastKnot: bundleFormat, ...Object.fromEntries(parts) });
}

function filesIn<T>(
  part: Exclude<keyof Bundle, 'vastKnot'>,
  all: readonly T[],
  naming: (one: T) => readonly [name: string, key: string],
): readonly BundleFile[] {
  const named = all.map((one) => {
    const [name, key] = naming(one);
    return { one, name: fileName(name), key: fileName(key) };
  });
  return named
    .map(({ one, name, key }) => {
      const isAlone = named.filter((other) => other.name === name).length === 1 && name !== '';
      const file = isAlone ? name : [name, key].filter((word) => word !== '').join('-');
      return {
        path: `${part}/${file}.json`,
        text: canonicalText({ vastKnot: bundleFormat, [part]: [one] }),
      };
    })
    .sort((a, b) => (a.path < b.path ? -1 : 1));
}

/** Returns a name as every file system takes it: letters without their marks, digits, and hyphens between words. */
function fileName(name: string): string {
  return name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 80);
}
