/** Between server, web and command line: work that is carried from one environment to another. Types only. */
import type { Upgraded } from '../bundle/format';
import type { BundleItemKind, ItemState } from '../bundle/items';
import type { JsonChange } from '../change/jsonDifferences';
import type { Finding } from '../check/finding';
import type { SampleVerdict } from '../replay/compareOutcome';
import type { SchemaChange } from '../schema';

/** What is put into a bundle: rules by their ids, or by their folder; all of them where neither is said. */
export interface ExportAsked {
  readonly rules?: readonly string[];
  readonly folder?: string;
  /** One file, or an archive (ZIP) with one for each thing. */
  readonly form: 'file' | 'archive';
  readonly samples: boolean;
}

/** Which connection of this environment stands for a system of a bundle: one that there is, or a new one. */
export type SystemSlot =
  | { readonly is: 'bound'; readonly to: string }
  | { readonly is: 'new'; readonly baseUrl: string; readonly token?: string };

/** Which outside address of this environment stands for one of a bundle. */
export type AddressSlot =
  { readonly is: 'bound'; readonly to: string } | { readonly is: 'new'; readonly url: string };

/** Which of two is to stand: the one that comes, or the one that is here. */
export type Taken = 'theirs' | 'ours';

export interface ImportAsked {
  readonly files: readonly { readonly name: string; readonly text: string }[];
  /** By the keys of the bundle. One that is not said is bound to what has its key here. */
  readonly systems: Readonly<Record<string, SystemSlot>>;
  readonly addresses: Readonly<Record<string, AddressSlot>>;
  /** By kind and key, `rule 0192…`. What was changed in both has to be said; the others are taken, or stay, by what became of them. */
  readonly take: Readonly<Record<string, Taken>>;
  /** SHA-256 of how things last were in both, by kind and key, as whoever brings the files noted it: what is not noted here is known by it. */
  readonly known: Readonly<Record<string, string>>;
  /** Rules that run where they come from run here at once; otherwise they arrive as drafts, and what runs here goes on. */
  readonly running: boolean;
}

/** A system or outside address of a bundle, and what stands for it here. */
export interface SlotView {
  readonly kind: 'system' | 'address';
  readonly key: string;
  readonly name: string;
  /** Its key here; null while nothing stands for it. */
  readonly to: string | null;
  readonly isNew: boolean;
  /** What is other in the record types here than in the bundle: what is only here is not told. */
  readonly schema: readonly SchemaChange[];
}

export interface ImportItemView {
  readonly kind: BundleItemKind;
  readonly key: string;
  readonly name: string;
  readonly state: ItemState;
  /** What is done with it; null while that has to be said. */
  readonly taken: Taken | null;
  /** From how it is here to how it comes. */
  readonly changes: readonly JsonChange[];
  readonly more: number;
  /** Whether it would run here from now on, for a rule; as it is now where nothing is said of it. */
  readonly runs?: boolean;
}

/** What an import would do, computed beside what is here, and why it cannot be done as it is asked for. */
export interface ImportPlan {
  readonly upgraded: readonly Upgraded[];
  readonly slots: readonly SlotView[];
  readonly items: readonly ImportItemView[];
  /** What there is to say about the rules that come, here. */
  readonly findings: readonly {
    readonly rule: string;
    readonly name: string;
    readonly findings: readonly Finding[];
  }[];
  /** What the samples that come say with the rules that come, here. */
  readonly samples: readonly {
    readonly id: string;
    readonly name: string;
    readonly verdict: SampleVerdict;
    readonly differences: readonly string[];
  }[];
  /** Why it is not done; nothing where it can be. */
  readonly problems: readonly string[];
  /** What it rests on. It is given with the import, which is refused where something is other by then. */
  readonly stamp: string;
}

/** An import that was done. */
export interface ImportView {
  readonly id: string;
  readonly at: string;
  readonly by: string;
  readonly files: readonly string[];
  readonly running: boolean;
  /** What was taken over, by kind. */
  readonly took: readonly { readonly kind: string; readonly key: string; readonly name: string }[];
  readonly undone: { readonly at: string; readonly by: string } | null;
}

/** What taking an import back came to: what was changed since stays, and is named. */
export interface ImportUndone {
  readonly back: number;
  readonly stays: readonly { readonly kind: string; readonly key: string; readonly name: string }[];
}
