/** How an answer stands: it cannot be taken, it is being dealt with, it failed, or it did what it was to. */
export const answerStandings = ['refused', 'under way', 'failed', 'done'] as const;
export type AnswerStanding = (typeof answerStandings)[number];
