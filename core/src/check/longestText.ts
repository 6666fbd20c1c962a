import type { Surroundings } from '../engine/surroundings';
import type { Typed } from '../formula/typed';
import { possibleValues } from './possibleValues';

/** The most code points that a formula can give; undefined when nothing bounds it. */
export function longestText(typed: Typed, surroundings: Surroundings): number | undefined {
  const values = possibleValues(typed, surroundings);
  if (values) return Math.max(0, ...[...values].map((value) => [...value].length));
  const { node, field, children } = typed;
  const [first, second, third] = children;
  const longest = (part: Typed | undefined) => part && longestText(part, surroundings);
  const most = (parts: readonly Typed[]) => {
    const lengths = parts.map(longest);
    return lengths.includes(undefined) ? undefined : Math.max(0, ...lengths.map(Number));
  };
  if (field) return field.maxLength;
  if (node.kind === 'binary' && node.operator === '&') {
    const [a, b] = [longest(first), longest(second)];
    return a === undefined || b === undefined ? undefined : a + b;
  }
  if (node.kind !== 'call') return undefined;
  switch (node.name) {
    case 'TRIM':
    case 'LOWER':
    case 'PROPER':
    case 'CLEAN':
    case 'EMAILDOMAIN':
    case 'REGISTRABLEDOMAIN':
    case 'TEXTBEFORE':
    case 'TEXTAFTER':
    case 'REGEXEXTRACT':
    case 'UPPER':
      return longest(first);
    case 'LEFT':
    case 'RIGHT':
      return least(children.length < 2 ? 1 : literal(second), longest(first));
    case 'MID':
      return least(literal(third), longest(first));
    case 'IF':
    case 'CHOOSE':
      return most(children.slice(1));
    case 'COALESCE':
    case 'IFERROR':
      return most(children);
    case 'PHONE':
      // A plus sign and 15 digits (ITU-T E.164, 6.2.1).
      return 16;
    case 'UUID5':
      // 32 hexadecimal digits and four hyphens (RFC 9562, 4).
      return 36;
    case 'PHONECOUNTRY':
      return 2;
    case 'COUNTRY': {
      const form = second?.node.kind === 'text' ? second.node.value : '';
      return form === 'alpha-2' ? 2 : form === 'alpha-3' || form === 'numeric' ? 3 : undefined;
    }
    default:
      return undefined;
  }
}

function literal(part: Typed | undefined): number | undefined {
  return part?.node.kind === 'number' ? Number(part.node.value) : undefined;
}

function least(...lengths: readonly (number | undefined)[]): number | undefined {
  const known = lengths.filter((length) => length !== undefined);
  return known.length === 0 ? undefined : Math.min(...known);
}
