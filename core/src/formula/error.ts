/** A stretch of formula text, in UTF-16 units from the start. */
export interface Span {
  readonly start: number;
  readonly end: number;
}

interface NearestName {
  readonly wrong: string;
  readonly right: string;
}

type ErrorCode =
  /** The text is no formula. */
  | 'syntax'
  /** A name that nothing has. */
  | 'name'
  /** A value of a type that does not fit. */
  | 'type'
  /** A value outside what the function takes. */
  | 'value'
  /** Division by zero. */
  | 'divide'
  /** A lookup table has no row for the key. */
  | 'no row'
  /** A bound was hit: text length, nesting, list size. */
  | 'limit';

const longestMessage = 500;

/** An error is a value: it travels through a formula to where it is shown, and is never written to a target. */
export class FormulaError {
  /** A sentence for the person who reads it. */
  readonly message: string;

  constructor(
    readonly code: ErrorCode,
    message: string,
    readonly place?: Span,
    /** For a name that nothing has: the written name, and the nearest that there is. */
    readonly suggestion?: NearestName,
  ) {
    // A sentence that quotes a value is cut where the value is a book.
    this.message = message.length <= longestMessage ? message : `${message.slice(0, longestMessage)} …`;
  }

  /** Returns the same error, with a place if it has none yet. */
  at(place: Span): FormulaError {
    return this.place ? this : new FormulaError(this.code, this.message, place, this.suggestion);
  }
}
