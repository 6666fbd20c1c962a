import { Copy } from '../parts/Copy';

/** A secret that was made: it is shown this once. */
export function SecretOnce({ name, secret }: { readonly name: string; readonly secret: string }) {
  return (
    <div className="note" role="status">
      To be given to {name}, and shown this once: <span className="mono breaks">{secret}</span>{' '}
      <Copy text={secret} what="the secret" />
    </div>
  );
}
