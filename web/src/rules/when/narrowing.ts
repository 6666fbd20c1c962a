/** What may be taken away from a trigger again. */
export type Narrowing = 'turns' | 'wait' | 'once';
