/** The part of a library from the registry that tests hold tagged records against. */
declare module 'marcjs' {
  export const Marc: {
    format(record: Record, type: string): string;
    parse(raw: Uint8Array, type: string): Record;
  };
  export class Record {
    leader: string;
    readonly fields: readonly (readonly string[])[];
    append(...fields: readonly (readonly string[])[]): void;
  }
}
