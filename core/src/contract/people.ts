/** Between server and web: people, what they may, and with what they sign in. */
import type { Right, Role } from '../model/rights';
import type { Habits } from './session';

/** Colours of an environment's name in the bar, each told by its name as well. */
export const environmentColours = ['plain', 'moss', 'brick', 'slate', 'plum'] as const;
export type EnvironmentColour = (typeof environmentColours)[number];

/** How this environment is called, and what it asks of people. */
export interface EnvironmentView {
  /** Stands in the bar, such as “Trial”; empty where nobody gave it one. */
  readonly name: string;
  readonly colour: EnvironmentColour;
  /** What one person wants published is published by another. */
  readonly secondPerson: boolean;
  readonly revision: number;
}

/** Who is signed in. */
export interface SignedIn {
  readonly name: string;
  readonly fullName: string;
  readonly mail: string;
  readonly role: Pick<Role, 'key' | 'name'>;
  readonly rights: readonly Right[];
  readonly habits: Habits;
  /** They have time-based codes. */
  readonly secondFactor: boolean;
  /** Their role wants a second factor, and they have none: until then they can do nothing else. */
  readonly mustHaveSecondFactor: boolean;
  readonly environment: EnvironmentView;
}

/** What signing in is answered with: who is signed in, or that a code is wanted as well. */
export type SignInAnswer = SignedIn | { readonly wants: 'code' };

/** A person, as whoever looks after people sees them. */
export interface PersonView {
  readonly name: string;
  readonly fullName: string;
  readonly mail: string;
  readonly role: string;
  readonly secondFactor: boolean;
  /** ISO 8601, as all times here. */
  readonly madeAt: string;
  readonly madeBy: string;
  /** Since when they cannot sign in; null while they can. */
  readonly stoppedAt: string | null;
  readonly seenAt: string | null;
  /** How many browsers they are signed in with, and how many tokens of theirs are good. */
  readonly sessions: number;
  readonly tokens: number;
}

/** A link that somebody was given and has not used. */
export interface InvitationView {
  readonly id: string;
  /** To join, or to choose another password. */
  readonly kind: 'join' | 'password';
  readonly name: string;
  readonly mail: string;
  readonly role: string | null;
  readonly madeAt: string;
  readonly madeBy: string;
  readonly endsAt: string;
}

/** What whoever has a link is shown before they use it. */
export type InvitationShown = Pick<InvitationView, 'kind' | 'name' | 'endsAt'>;

/** An invitation with the link, which is told once. */
export interface InvitationMade extends InvitationView {
  readonly link: string;
  /** Whether it was sent by mail. */
  readonly mailed: boolean;
}

export interface RoleView extends Role {
  /** Every environment has it; it can neither be changed nor removed. */
  readonly builtIn: boolean;
  readonly secondFactor: boolean;
  readonly people: number;
  readonly revision: number;
}

export interface PeopleView {
  readonly people: readonly PersonView[];
  readonly invitations: readonly InvitationView[];
  readonly roles: readonly RoleView[];
}

/** A browser that a person is signed in with. */
export interface SessionView {
  /** Tells it from others; it is not what the browser has. */
  readonly id: string;
  /** It is the one that asks. */
  readonly here: boolean;
  /** The address it came from last, and what it says it is. */
  readonly from: string;
  readonly agent: string;
  readonly since: string;
  readonly seenAt: string;
}

/** With what a program asks in the name of a person. */
export interface TokenView {
  readonly id: string;
  readonly name: string;
  readonly rights: readonly Right[];
  readonly madeAt: string;
  readonly endsAt: string;
  readonly usedAt: string | null;
  readonly usedFrom: string | null;
}

/** A token with its text, which is told once. */
export interface TokenMade extends TokenView {
  readonly token: string;
}

/** A secret that a program for codes takes, as text and as an address of the form that such programs read (otpauth). */
export interface SecondFactorBegun {
  readonly secret: string;
  readonly uri: string;
}

/** What two may have open at the same time. */
export type PresenceKind = 'rule' | 'table' | 'sample' | 'system' | 'address';

/** That a tab of a browser has something open. */
export interface PresenceAsked {
  /** A UUID of the tab's own. */
  readonly tab: string;
  readonly kind: PresenceKind;
  /** The id of a rule or sample, the key of a system or address, the name of a table. */
  readonly key: string;
}

/** Somebody else who has it open, and when they said so last (ISO 8601). */
export interface PresenceView {
  readonly person: string;
  readonly at: string;
}
