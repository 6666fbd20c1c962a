import { FormulaError } from './error';
import { limits } from './limits';
import { tokenize, type Token } from './lexer';
import type { BinaryOperator, Node } from './tree';

/** Binary operators from weakest to strongest, each level read from the left (OpenFormula 1.3, 5.5). */
const levels: readonly (readonly BinaryOperator[])[] = [
  ['=', '<>', '<', '<=', '>', '>='],
  ['&'],
  ['+', '-'],
  ['*', '/'],
  ['^'],
];

/** Turns formula text into a tree, or says in one sentence where and why it is none. */
export function parse(source: string): Node | FormulaError {
  if (source.length > limits.length) {
    return new FormulaError(
      'limit',
      `A formula may be ${limits.length.toLocaleString('en')} characters long.`,
      {
        start: limits.length,
        end: source.length,
      },
    );
  }
  const tokens = tokenize(source);
  if (tokens instanceof FormulaError) return tokens;
  try {
    return new Parser(tokens).formula();
  } catch (thrown) {
    if (thrown instanceof Stop) return thrown.error;
    throw thrown;
  }
}

/** Unwinds the recursive descent; never leaves this file. */
class Stop extends Error {
  constructor(readonly error: FormulaError) {
    super(error.message);
  }
}

class Parser {
  private at = 0;
  private depth = 0;
  private readonly heights = new WeakMap<Node, number>();

  constructor(private readonly tokens: readonly Token[]) {}

  formula(): Node {
    if (this.peek().kind === 'end') this.stop('The formula is empty.');
    const node = this.level(0);
    if (this.peek().kind !== 'end') {
      this.stop(
        `“${this.peek().value}” does not belong here; perhaps an operator or a comma is missing before it.`,
      );
    }
    return node;
  }

  private level(index: number): Node {
    const operators = levels[index];
    if (!operators) return this.postfix();
    return this.nested(() => {
      let left = this.level(index + 1);
      for (;;) {
        const operator = operators.find((candidate) => this.isSymbol(candidate));
        if (!operator) return left;
        this.at++;
        const right = this.level(index + 1);
        left = this.over([left, right], { kind: 'binary', operator, left, right, place: span(left, right) });
      }
    });
  }

  private postfix(): Node {
    let node = this.prefix();
    while (this.isSymbol('%')) {
      const end = this.take().place.end;
      node = this.over([node], { kind: 'percent', of: node, place: { start: node.place.start, end } });
    }
    return node;
  }

  private prefix(): Node {
    const token = this.peek();
    if (token.kind === 'symbol' && (token.value === '-' || token.value === '+')) {
      const operator = token.value;
      this.at++;
      const of = this.nested(() => this.prefix());
      const place = { start: token.place.start, end: of.place.end };
      return this.over([of], { kind: 'sign', operator, of, place });
    }
    return this.primary();
  }

  private primary(): Node {
    const token = this.take();
    if (token.kind === 'text')
      return { kind: 'text', value: token.value.normalize('NFC'), place: token.place };
    if (token.kind === 'number') return this.number(token);
    if (token.kind === 'name') return this.nameOrCall(token);
    if (token.kind === 'symbol' && token.value === '(') {
      const node = this.nested(() => this.level(0));
      const end = this.expect(')', 'This bracket is not closed: a “)” is missing.').place.end;
      return this.over([node], { ...node, place: { start: token.place.start, end } });
    }
    if (token.kind === 'symbol' && token.value === '{') {
      const items = this.items('}');
      const place = { start: token.place.start, end: items.end };
      return this.over(items.nodes, { kind: 'list', items: items.nodes, place });
    }
    this.at--;
    return this.stop(
      token.kind === 'end'
        ? 'The formula ends too early: a value is missing.'
        : `A value is missing before “${token.value}”.`,
    );
  }

  private number({ value, place }: Token): Node {
    const [digits = '', exponent = '0'] = value.toLowerCase().split('e');
    if (digits.length > limits.digits || Math.abs(Number(exponent)) > limits.digits) {
      const most = limits.digits.toLocaleString('en');
      throw new Stop(new FormulaError('limit', `A number may have ${most} digits.`, place));
    }
    return { kind: 'number', value, place };
  }

  /** Returns a node that holds others, unless it would stand too high: everything that walks a tree goes as deep as it is high. */
  private over(parts: readonly Node[], node: Node): Node {
    const height = 1 + Math.max(0, ...parts.map((part) => this.heights.get(part) ?? 0));
    if (height > limits.height) {
      const message = `A formula may have ${limits.height} parts one inside the other; in a chain of operators each holds those before it.`;
      throw new Stop(new FormulaError('limit', message, node.place));
    }
    this.heights.set(node, height);
    return node;
  }

  private nameOrCall(token: Token): Node {
    if (!token.quoted && this.isSymbol('(')) {
      this.at++;
      const args = this.items(')');
      const place = { start: token.place.start, end: args.end };
      return this.over(args.nodes, {
        kind: 'call',
        name: token.value.toUpperCase(),
        args: args.nodes,
        place,
      });
    }
    const path = [token.value];
    let end = token.place.end;
    while (this.isSymbol('.')) {
      this.at++;
      const step = this.take();
      if (step.kind !== 'name') {
        this.at--;
        this.stop('A field name is missing after the dot.');
      }
      path.push(step.value);
      end = step.place.end;
      if (path.length > limits.path)
        throw new Stop(new FormulaError('limit', `A name may have ${limits.path} steps.`, step.place));
    }
    const place = { start: token.place.start, end };
    const word = token.value.toUpperCase();
    if (path.length === 1 && !token.quoted && (word === 'TRUE' || word === 'FALSE')) {
      return { kind: 'boolean', value: word === 'TRUE', place };
    }
    return { kind: 'name', path, place };
  }

  private items(close: ')' | '}'): { readonly nodes: Node[]; readonly end: number } {
    const nodes: Node[] = [];
    if (this.isSymbol(close)) return { nodes, end: this.take().place.end };
    for (;;) {
      nodes.push(this.nested(() => this.level(0)));
      if (this.isSymbol(',') || this.isSymbol(';')) this.at++;
      else return { nodes, end: this.expect(close, `A “${close}” or a comma is missing.`).place.end };
    }
  }

  private nested<T>(read: () => T): T {
    // Each bracket passes every operator level, so that the depth is counted in levels.
    if (++this.depth > limits.depth * (levels.length + 1)) {
      throw new Stop(
        new FormulaError('limit', `A formula may be nested ${limits.depth} deep.`, this.peek().place),
      );
    }
    const result = read();
    this.depth--;
    return result;
  }

  private peek(): Token {
    const token = this.tokens[this.at];
    if (!token) throw new Error('read past the end token');
    return token;
  }

  private take(): Token {
    const token = this.peek();
    if (token.kind !== 'end') this.at++;
    else if (this.at === this.tokens.length - 1) this.at++;
    return token;
  }

  private isSymbol(value: string): boolean {
    const token = this.tokens[this.at];
    return token?.kind === 'symbol' && token.value === value;
  }

  private expect(symbol: string, otherwise: string): Token {
    if (!this.isSymbol(symbol)) this.stop(otherwise);
    return this.take();
  }

  private stop(message: string): never {
    throw new Stop(new FormulaError('syntax', message, this.peek().place));
  }
}

function span(left: Node, right: Node) {
  return { start: left.place.start, end: right.place.end };
}
