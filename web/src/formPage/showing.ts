/**
 * Shows and hides the questions of a form while it is answered, as the server says. The page is whole without it: what is not shown is asked
 * once the answers are sent.
 */
const form = document.querySelector('form');
const askedField = form?.querySelector<HTMLInputElement>('[name=".asked"]');
const items = document.querySelectorAll<HTMLElement>('[data-at]');
/** Answers that follow one another at once are one. */
const waitMs = 250;

let timer: number | undefined;
let last = 0;

async function look(of: HTMLFormElement): Promise<void> {
  const own = ++last;
  const body = new URLSearchParams();
  for (const [name, value] of new FormData(of)) if (typeof value === 'string') body.append(name, value);
  const response = await fetch(`${window.location.pathname}/shown`, { method: 'POST', body });
  if (!response.ok || own !== last) return;
  const shown = (await response.json()) as readonly number[];
  for (const item of items) item.hidden = !shown.includes(Number(item.dataset['at']));
  if (askedField) askedField.value = shown.join(',');
}

form?.addEventListener('input', () => {
  window.clearTimeout(timer);
  // Without an answer everything stays as it is; what is missing is asked when the form is sent.
  timer = window.setTimeout(() => void look(form).catch(() => undefined), waitMs);
});

// Whoever sent what could not be taken reads first why.
document.querySelector<HTMLElement>('.summary')?.focus();
