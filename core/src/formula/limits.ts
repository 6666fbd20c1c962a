/** Bounds that hold against formulas made to hang or fill a process. */
export const limits = {
  /** Longest formula text, in UTF-16 units. */
  length: 10_000,
  /** Deepest nesting of brackets and calls. */
  depth: 64,
  /** Most parts one inside the other, where each operator of a chain holds those before it. */
  height: 500,
  /** Most steps of a name. */
  path: 30,
  /** Most digits that a number may have, and the furthest that its point may stand from them. */
  digits: 1000,
  /** Longest text that a formula may make, in UTF-16 units. */
  text: 1_000_000,
  /** Most elements of a list that a formula may make. */
  items: 10_000,
  /** Most elements that EACH and KEEP go through in one computation, nested ones counted together. */
  steps: 100_000,
  /** Most text that one computation may make, all its parts counted together, in UTF-16 units. */
  made: 4_000_000,
  /** Most work that one computation may do: a call is a unit, and so is each element of its lists and each 64 characters of its texts; some functions cost more. */
  work: 500_000,
} as const;
