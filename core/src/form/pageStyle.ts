/** How the page of a form looks: one column, large targets, light and dark as whoever answers has it. */
export const pageStyle = `
:root { color-scheme: light dark; --ground: #f4f1ea; --sheet: #fffdf8; --ink: #1f2328; --dim: #5a5d61; --line: #8b877e; --go: #0f6570; --on-go: #ffffff; --wrong: #a3261c; --note: #e7f0ee; }
@media (prefers-color-scheme: dark) { :root { --ground: #17191b; --sheet: #212427; --ink: #ecebe7; --dim: #b0b1b2; --line: #7d8083; --go: #6cc3cf; --on-go: #10282c; --wrong: #ff9d92; --note: #1f3336; } }
* { box-sizing: border-box; }
body { margin: 0; background: var(--ground); color: var(--ink); font: 17px/1.5 system-ui, sans-serif; }
main { max-width: 40rem; margin: 2.5rem auto; padding: 2rem 2.25rem; background: var(--sheet); border-top: 6px solid var(--go); }
h1 { margin: 0 0 0.75rem; font-size: 1.7rem; line-height: 1.25; text-wrap: balance; }
h2 { margin: 0 0 0.5rem; font-size: 1.1rem; }
p { margin: 0 0 0.75rem; }
[hidden] { display: none !important; }
.item { margin: 1.75rem 0; padding: 0; border: 0; min-width: 0; }
.item > label:not(.choice), legend { display: block; padding: 0; font-weight: 600; }
.optional { color: var(--dim); font-weight: 400; }
.hint { margin: 0.15rem 0 0; color: var(--dim); font-size: 0.92rem; }
.wrong { margin: 0.15rem 0 0; color: var(--wrong); font-weight: 600; }
input:not([type=radio], [type=checkbox]), select, textarea { display: block; width: 100%; margin-top: 0.4rem; padding: 0.55rem 0.7rem; border: 1.5px solid var(--line); border-radius: 3px; background: var(--sheet); color: inherit; font: inherit; }
input.short { max-width: 16rem; font-variant-numeric: tabular-nums; }
[aria-invalid=true]:not(fieldset) { border-color: var(--wrong) !important; border-width: 2.5px !important; }
.choice { display: flex; gap: 0.6rem; align-items: center; min-height: 2.4rem; }
.choice input { width: 1.25rem; height: 1.25rem; margin: 0; accent-color: var(--go); }
:focus-visible { outline: 3px solid var(--go); outline-offset: 2px; }
.note { padding: 0.8rem 1rem; background: var(--note); border-left: 4px solid var(--go); }
.note p:last-child { margin: 0; }
.stops, .summary { padding: 0.8rem 1rem; background: transparent; border: 2px solid var(--wrong); }
.summary ul { margin: 0; padding-left: 1.2rem; }
a { color: inherit; }
.summary a { color: var(--wrong); }
button { padding: 0.7rem 1.6rem; border: 0; border-radius: 3px; background: var(--go); color: var(--on-go); font: inherit; font-weight: 600; cursor: pointer; }
.bait { position: absolute; left: -100vw; width: 1px; height: 1px; overflow: hidden; }
@media (max-width: 44rem) { main { margin: 0; padding: 1.25rem; } }
@media print { button { display: none; } main { border: 0; } }
`;
