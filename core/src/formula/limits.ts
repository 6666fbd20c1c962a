/** Bounds that hold against formulas made to hang or fill a process. */
export const limits = {
  /** Longest formula text, in UTF-16 units. */
  length: 10_000,
  /** Deepest nesting of parts. */
  depth: 64,
  /** Longest text that a formula may make, in UTF-16 units. */
  text: 1_000_000,
  /** Most elements of a list that a formula may make. */
  items: 10_000,
  /** Most elements that EACH and KEEP go through in one computation, nested ones counted together. */
  steps: 100_000,
} as const;
