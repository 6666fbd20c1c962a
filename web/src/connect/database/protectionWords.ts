import type { DatabaseConnection } from '@vast-knot/core';

interface Words {
  readonly value: DatabaseConnection['protection'];
  readonly label: string;
  /** As a sentence goes on after “the line is”. */
  readonly says: string;
}

/** How far the line to a database is protected, in words. */
export const protectionWords: readonly Words[] = [
  {
    value: 'verified',
    label: 'encrypted (TLS), and its certificate is checked',
    says: 'encrypted, and its certificate is checked',
  },
  {
    value: 'encrypted',
    label: 'encrypted (TLS), with whatever certificate',
    says: 'encrypted, with whatever certificate',
  },
  { value: 'none', label: 'open: for a database on the same machine', says: 'open' },
];
