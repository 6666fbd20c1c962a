import type { Span } from './error';

export type BinaryOperator = '+' | '-' | '*' | '/' | '^' | '&' | '=' | '<>' | '<' | '<=' | '>' | '>=';

/** A formula as a tree; every node knows its place in the text. */
export type Node =
  | { readonly kind: 'text'; readonly value: string; readonly place: Span }
  | { readonly kind: 'number'; readonly value: string; readonly place: Span }
  | { readonly kind: 'boolean'; readonly value: boolean; readonly place: Span }
  | { readonly kind: 'name'; readonly path: readonly string[]; readonly place: Span }
  | { readonly kind: 'call'; readonly name: string; readonly args: readonly Node[]; readonly place: Span }
  | { readonly kind: 'list'; readonly items: readonly Node[]; readonly place: Span }
  | { readonly kind: 'sign'; readonly operator: '+' | '-'; readonly of: Node; readonly place: Span }
  | { readonly kind: 'percent'; readonly of: Node; readonly place: Span }
  | {
      readonly kind: 'binary';
      readonly operator: BinaryOperator;
      readonly left: Node;
      readonly right: Node;
      readonly place: Span;
    };

/** Returns the nodes directly inside a node, from left to right. */
export function childrenOf(node: Node): readonly Node[] {
  switch (node.kind) {
    case 'call':
      return node.args;
    case 'list':
      return node.items;
    case 'sign':
    case 'percent':
      return [node.of];
    case 'binary':
      return [node.left, node.right];
    default:
      return [];
  }
}
