/**
 * Makes every line of a CSV text end with a line feed, whatever its lines end with, also where a file has lines of several kinds, as one that
 * went through several programs has. What stands inside of quotes stays (RFC 4180, section 2.6). Takes a text part by part.
 */
export class LineEnds {
  constructor(private readonly quote = '"') {}

  private quoted = false;
  /** A return at the end of a part, of which it is not known yet whether a line feed follows. */
  private held = '';

  take(part: string): string {
    const text = this.held + part;
    this.held = !this.quoted && text.endsWith('\r') ? '\r' : '';
    return this.even(this.held === '' ? text : text.slice(0, -1));
  }

  /** Returns what is left when there are no more parts. */
  end(): string {
    return this.held === '' ? '' : '\n';
  }

  private even(text: string): string {
    const pieces = text.split(this.quote);
    const evened = pieces.map((piece, at) => {
      if (at > 0) this.quoted = !this.quoted;
      return this.quoted ? piece : piece.replace(/\r\n?/g, '\n');
    });
    return evened.join(this.quote);
  }
}
