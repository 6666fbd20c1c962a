import type { BinaryOperator, Node } from './tree';

const strength: Readonly<Record<BinaryOperator, number>> = {
  '=': 1,
  '<>': 1,
  '<': 1,
  '<=': 1,
  '>': 1,
  '>=': 1,
  '&': 2,
  '+': 3,
  '-': 3,
  '*': 4,
  '/': 4,
  '^': 5,
};
const plainName = /^[\p{L}_$][\p{L}\p{N}_$]*$/u;

/** Returns the text of a tree, with no bracket that is not needed. Reading it back gives the same tree. */
export function print(node: Node): string {
  switch (node.kind) {
    case 'text':
      return `"${node.value.replaceAll('"', '""')}"`;
    case 'number':
      return node.value;
    case 'boolean':
      return node.value ? 'TRUE' : 'FALSE';
    case 'name':
      return printPath(node.path);
    case 'call':
      return `${node.name}(${node.args.map(print).join(', ')})`;
    case 'list':
      return `{${node.items.map(print).join(', ')}}`;
    case 'sign':
      return node.operator + printInside(node.of, 7);
    case 'percent':
      return `${printInside(node.of, 6)}%`;
    case 'binary': {
      const own = strength[node.operator];
      return `${printInside(node.left, own)} ${node.operator} ${printInside(node.right, own + 1)}`;
    }
  }
}

/** Returns a dotted name as it is written in a formula: steps that are no plain word stand in single quotes. */
export function printPath(path: readonly string[]): string {
  return path.map((step, at) => (needsQuotes(step, at) ? `'${step.replaceAll("'", "''")}'` : step)).join('.');
}

function needsQuotes(step: string, at: number): boolean {
  return !plainName.test(step) || (at === 0 && /^(true|false)$/i.test(step));
}

function printInside(node: Node, needed: number): string {
  const own = node.kind === 'binary' ? strength[node.operator] : node.kind === 'percent' ? 6 : 7;
  return own < needed ? `(${print(node)})` : print(node);
}
