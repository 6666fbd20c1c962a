import type { DraftReason, Listing, OwnStyle, SignIn } from '../connection';
import type { Field, RecordType } from '../model/system';

/** Why something is proposed, of the record type at hand or of the system as a whole. */
export type Reason = Omit<DraftReason, 'type'>;

/** A record type as it is proposed, with how it is reached. */
export interface ProposedType {
  readonly type: RecordType;
  /** How its records are reached; undefined where only its fields were learnt. */
  readonly style: (Partial<OwnStyle> & { readonly path: string; readonly list: Listing }) | undefined;
  readonly reasons: readonly Reason[];
  /** The fields as a document says them, without what is guessed from names; undefined where no document does. */
  readonly said?: readonly Field[];
}

/** What was learnt of a system. */
export interface Proposal {
  readonly name: string | undefined;
  readonly baseUrl: string | undefined;
  readonly signIn: SignIn | undefined;
  readonly types: readonly ProposedType[];
  /** Reasons that concern the system as a whole. */
  readonly reasons: readonly Reason[];
  /** What was left out, each with its reason. */
  readonly leftOut: readonly string[];
}
