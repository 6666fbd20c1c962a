/** Between server and web: who is signed in, and what an answer says that went wrong. Types only. */
import type { Right, Role } from '../model/rights';

export interface SignedIn {
  readonly name: string;
  readonly role: Role;
  readonly rights: readonly Right[];
}

export interface ProblemView {
  readonly status: number;
  readonly title: string;
  readonly detail: string;
  readonly errors?: readonly { readonly at: string; readonly message: string }[];
}
