import type { Style } from '../style';

/** One way of asking for the records that meet a condition. */
export interface FilterStyle<F extends { readonly kind: string }> extends Style<F> {
  /** Returns the parameters that ask for records whose field is one of the values; undefined where that cannot be asked. */
  parameters(
    filter: F,
    field: string,
    values: readonly string[],
  ): readonly (readonly [name: string, value: string])[] | undefined;
}
