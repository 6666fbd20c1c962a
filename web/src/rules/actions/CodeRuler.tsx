interface CodeRulerProps {
  readonly text: string;
  /** The first position that is replaced, counted from 1, and how many are. */
  readonly position: number;
  readonly length: number;
  readonly label: string;
}

/** A fixed-position code under a ruler of its positions, with those that are replaced marked. */
export function CodeRuler({ text, position, length, label }: CodeRulerProps) {
  const characters = [...text];
  const cells = Array.from(
    { length: Math.max(characters.length, position + length - 1) },
    (_cell, at) => characters[at] ?? ' ',
  );
  return (
    <div
      className="ruler"
      role="img"
      aria-label={`${label}: ${text}, positions ${position} to ${position + length - 1}`}
    >
      {cells.map((character, at) => {
        const number = at + 1;
        const marked = number >= position && number < position + length;
        return (
          <span key={at} className={marked ? 'cell marked' : 'cell'}>
            <span className="number">{number % 5 === 0 || number === 1 || marked ? number : '·'}</span>
            <span className="mono">{character === ' ' ? '\u2423' : character}</span>
          </span>
        );
      })}
    </div>
  );
}
