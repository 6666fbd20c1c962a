import { functionNamed } from './functions';
import type { Typed } from './typed';

/** Returns whether a formula may give blank: a name whose field is not required, and what passes its blank on. */
export function mayBeBlank({ node, field, children, missing }: Typed): boolean {
  if (missing) return true;
  if (field) return !field.required && !field.readOnly;
  if (node.kind === 'text') return node.value === '';
  if (node.kind === 'binary' && node.operator === '&') return children.every(mayBeBlank);
  const blank = node.kind === 'call' ? functionNamed(node.name)?.blank : undefined;
  return blank ? blank(children, mayBeBlank) : children.some(mayBeBlank);
}
