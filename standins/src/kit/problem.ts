/** An answer of RFC 9457 that ends a request. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly errors: readonly { readonly field: string; readonly message: string }[] = [],
  ) {
    super(detail);
  }

  body(): object {
    const { status, title, detail, errors } = this;
    return { type: 'about:blank', status, title, detail, ...(errors.length > 0 && { errors }) };
  }
}
