import { oneOrList } from './oneOrList';
import { isDivided, taggedIn, type TaggedField } from './tagged';
import type { AddressRead } from './format';

const pattern =
  /^(?<tag>leader|[0-9A-Za-z]{3})(?:\((?<indicators>[^)]*)\))?(?:\[(?<field>\d+)\])?(?:(?<code>\$.)(?:\[(?<sub>\d+)\])?|\/(?<from>\d+)(?:-(?<to>\d+))?|\.(?<indicator>\d))?$/u;

/**
 * Returns what an address means within a tagged record:
 *
 * - `954$c` the subfields c of all fields 954, `954[2]$c` those of the second, `954[2]$c[1]` the first of these;
 * - `954(1#)$c` only of fields with the indicators 1 and blank; `_` stands for any;
 * - `954.1` the first indicator; `954` a field as text;
 * - `007/3-5` the characters 3 to 5 of a field, counted from 0, as those who publish such fields count them; `leader/9` one of the leader.
 *
 * Where there are several, they are a list.
 */
export function taggedAddress(written: string): AddressRead {
  const text = written.trim();
  const groups = pattern.exec(text)?.groups;
  if (!groups)
    return {
      ok: false,
      because: `“${text}” is no place in a tagged record; one is written as 954$c, 310[2]$b, 007/3-5 or leader/9.`,
    };
  const { tag = '', indicators, field, code, sub, from, to, indicator } = groups;
  if (field === '0' || sub === '0') return { ok: false, because: `“${text}”: the first is [1].` };
  if (indicator === '0') return { ok: false, because: `“${text}”: the first indicator is .1.` };
  if (to !== undefined && Number(to) < Number(from))
    return { ok: false, because: `“${text}”: the last position stands before the first.` };
  if (
    tag === 'leader' &&
    (indicators !== undefined || field !== undefined || code !== undefined || indicator !== undefined)
  )
    return { ok: false, because: `“${text}”: the leader has positions alone, as in leader/9.` };
  const characters = (data: string): string | null => {
    if (from === undefined) return data;
    const found = [...data].slice(Number(from), Number(to ?? from) + 1).join('');
    return found === '' ? null : found;
  };
  const within = (each: TaggedField): readonly (string | null)[] => {
    if (!isDivided(each)) return code === undefined && indicator === undefined ? [characters(each.data)] : [];
    if (indicator !== undefined) return [each.indicators[Number(indicator) - 1] ?? null];
    if (code === undefined) return [characters(each.subfields.map(([, part]) => part).join(' '))];
    const parts = each.subfields.flatMap(([name, part]) => (name === code.slice(1) ? [part] : []));
    return sub === undefined ? parts : parts.slice(Number(sub) - 1, Number(sub));
  };
  return {
    ok: true,
    address: {
      text,
      read: (value) => {
        const { leader, fields } = taggedIn(value);
        if (tag === 'leader') return characters(leader);
        const named = fields.filter((each) => each.tag === tag && fits(each, indicators));
        const chosen = field === undefined ? named : named.slice(Number(field) - 1, Number(field));
        return oneOrList(chosen.flatMap(within));
      },
    },
  };
}

/** Returns whether the indicators of a field are those that are asked for: `#` is a blank, `_` any. */
function fits(field: TaggedField, wanted: string | undefined): boolean {
  if (wanted === undefined) return true;
  if (!isDivided(field)) return false;
  return [...wanted].every(
    (mark, at) => mark === '_' || (mark === '#' ? ' ' : mark) === field.indicators[at],
  );
}
