import { useEffect } from 'react';
import { partOf, printPart, readPart, withPart, type RulePart } from '@vast-knot/core';
import { takesText } from '../../parts/isTyping';
import { tell, tellTrouble } from '../../parts/toast';
import type { SheetTools } from '../SheetContext';
import { keepCopied } from './copied';
import { partWords } from './partWords';

/** Copies the find or action whose grip has the focus, and pastes parts that were copied from this rule or another one. */
export function usePartClipboard({ edit, current }: Pick<SheetTools, 'edit' | 'current'>, on: boolean): void {
  useEffect(() => {
    if (!on) return;
    const copy = (event: ClipboardEvent) => {
      const place = placeOf(event.target);
      const part = place && partOf(current(), place);
      if (!part) return;
      event.preventDefault();
      const text = printPart(part);
      event.clipboardData?.setData('text/plain', text);
      keepCopied(text);
      tell(`Copied ${partWords(part)}.`);
    };
    const paste = (event: ClipboardEvent) => {
      if (takesText(event.target)) return;
      const part = readPart(event.clipboardData?.getData('text/plain') ?? '');
      if (part === undefined) return;
      event.preventDefault();
      if (typeof part === 'string') tellTrouble(part);
      else pastePart(part, { edit, current });
    };
    document.addEventListener('copy', copy);
    document.addEventListener('paste', paste);
    return () => {
      document.removeEventListener('copy', copy);
      document.removeEventListener('paste', paste);
    };
  }, [edit, current, on]);
}

/** Puts a part into the rule at hand, and tells what came along and what is called otherwise. */
export function pastePart(part: RulePart, { edit, current }: Pick<SheetTools, 'edit' | 'current'>): void {
  const { along, names } = withPart(current(), part);
  edit((body) => withPart(body, part).body);
  const parts = [
    `Pasted ${partWords(part)}.`,
    ...(along.length > 0 ? [`Found for it as well: ${along.join(', ')}.`] : []),
    ...names.map(({ from, to }) => `“${from}” is called “${to}” here.`),
    'Ctrl+Z takes it back.',
  ];
  tell(parts.join(' '));
}

function placeOf(target: EventTarget | null) {
  if (!(target instanceof HTMLElement) || !target.classList.contains('part-grip')) return undefined;
  const [of, at] = target.closest<HTMLElement>('[data-part]')?.dataset['part']?.split('/') ?? [];
  return of === 'finds' || of === 'actions' ? ({ of, at: Number(at) } as const) : undefined;
}
