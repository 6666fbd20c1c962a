import type { FileFormat, FileRow, ShownPart } from '@vast-knot/core';
import { RecordSteps } from './RecordSteps';

interface ShownRecordProps {
  readonly rows: readonly FileRow[];
  readonly at: number;
  readonly format: Pick<FileFormat, 'shown'>;
  readonly go: (at: number) => void;
  /** Which fields are filled from a place, by the place. */
  readonly uses: ReadonlyMap<string, readonly string[]>;
  /** The field whose line is at hand, by its label: a press fills it. */
  readonly filling: string | undefined;
  readonly press: ((address: string) => void) | undefined;
}

/** A record in the shape that its file has: each value with its place, to be pressed. */
export function ShownRecord(props: ShownRecordProps) {
  const { rows, at, format, go, filling, press } = props;
  const row = rows[at];
  return (
    <section className="shown-record" aria-label="The file">
      <RecordSteps place={row?.place ?? 'no record'} count={rows.length} at={at} go={go}>
        {press && (
          <span className="small dim end">
            {filling === undefined
              ? 'Choose a field, then press a value'
              : `Press a value to fill “${filling}”`}
          </span>
        )}
      </RecordSteps>
      {row?.ok === true && (
        <div className="shown-parts">
          <div className="shown-line shown-head small dim" aria-hidden>
            <span>Place</span>
            <span>What stands there</span>
            <span>Fills</span>
          </div>
          <ul>
            {format.shown(row.value).map((part, n) => (
              <Part key={n} part={part} {...props} />
            ))}
          </ul>
        </div>
      )}
      {row?.ok === false && (
        <div className="note wrong">
          {row.because}
          {row.text !== '' && <pre className="mono small">{row.text}</pre>}
        </div>
      )}
    </section>
  );
}

function Part({ part, ...props }: ShownRecordProps & { readonly part: ShownPart }) {
  const { label, text, address, parts } = part;
  const { uses, press } = props;
  const fills = address === undefined ? [] : (uses.get(address) ?? []);
  const isValue = text !== undefined && address !== undefined && !(parts && text === '');
  return (
    <li>
      <div className={`shown-line ${fills.length > 0 ? 'used' : ''}`}>
        <span className="mono small">{label}</span>
        {isValue ? (
          press ? (
            <button
              type="button"
              className="value plain-value"
              title={`Use ${address}`}
              aria-label={`Use ${address}: ${text === '' ? 'blank' : text}`}
              onClick={() => press(address)}
            >
              {text === '' ? <span className="dim">blank</span> : text}
            </button>
          ) : (
            <span className="value">{text}</span>
          )
        ) : (
          <span />
        )}
        <span className="small dim">{fills.join(', ')}</span>
      </div>
      {parts && parts.length > 0 && (
        <ul>
          {parts.map((each, n) => (
            <Part key={n} part={each} {...props} />
          ))}
        </ul>
      )}
    </li>
  );
}
