/** A request before it is signed in. */
export interface Unsigned {
  readonly method: string;
  readonly url: URL;
  readonly body: string;
}

/** What signing in adds to a request. */
export interface SignedIn {
  readonly headers: Readonly<Record<string, string>>;
  /** Parameters of the address. */
  readonly query?: Readonly<Record<string, string>>;
}

/** Signs requests of one system in. */
export interface Signer {
  sign(request: Unsigned): Promise<SignedIn> | SignedIn;
  /** Forgets what was kept, because the system did not accept it. Returns whether another try makes sense. */
  refused?(): boolean;
}
