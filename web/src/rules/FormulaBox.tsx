import { useId, type KeyboardEvent } from 'react';
import { useMayChange } from '../frame/useRole';

interface FormulaBoxProps {
  readonly value: string;
  readonly label: string;
  readonly placeholder?: string;
  readonly mistake?: string | undefined;
  readonly onChange: (formula: string) => void;
  /** Told which box a pressed payload value goes into. */
  readonly onFocus?: ((box: HTMLTextAreaElement) => void) | undefined;
  readonly onKeyDown?: ((event: KeyboardEvent<HTMLTextAreaElement>) => void) | undefined;
}

/** A formula as text, with its mistake below it. */
export function FormulaBox({
  value,
  label,
  placeholder,
  mistake,
  onChange,
  onFocus,
  onKeyDown,
}: FormulaBoxProps) {
  const id = useId();
  const mayChange = useMayChange();
  return (
    <>
      <textarea
        className="formula-box"
        rows={1}
        spellCheck={false}
        aria-label={label}
        aria-invalid={mistake !== undefined}
        aria-describedby={mistake === undefined ? undefined : id}
        placeholder={placeholder}
        readOnly={!mayChange}
        maxLength={10_000}
        value={value}
        onChange={(event) => onChange(event.currentTarget.value)}
        onFocus={(event) => onFocus?.(event.currentTarget)}
        onKeyDown={onKeyDown}
      />
      {mistake !== undefined && (
        <div id={id} className="value wrong small" role="status" style={{ padding: '0 6px 3px' }}>
          {mistake}
        </div>
      )}
    </>
  );
}

/** Puts text where the cursor stands in a formula, as if it were typed. */
export function insertInto(box: HTMLTextAreaElement, text: string): void {
  box.focus();
  // The browser's own command keeps its undo; React hears it as input.
  document.execCommand('insertText', false, text);
}
