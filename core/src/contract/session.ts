/** Between server and web: how a person reads, and what an answer says that went wrong. */

/** How dates and numbers are written: which part of a date stands first, and how thousands and decimals are marked. */
export const readingForms = ['day first', 'month first', 'figures alone', 'points and commas'] as const;
export type ReadingForm = (typeof readingForms)[number];

/** In which zone and form a person reads dates and numbers, where what is not said is as the browser has it; and what they have seen. */
export interface Habits {
  /** A name of the IANA time zone database, `Europe/London`. */
  readonly zone?: string;
  readonly form?: ReadingForm;
  /** Was led through their first visit, or did not want to be. */
  readonly visited?: boolean;
}

export interface ProblemView {
  readonly status: number;
  readonly title: string;
  readonly detail: string;
  readonly errors?: readonly { readonly at: string; readonly message: string }[];
}
