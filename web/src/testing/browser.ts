/** What the libraries of the interface ask of a browser and the test environment lacks. */
Object.assign(window, {
  matchMedia: (media: string) => ({
    media,
    matches: false,
    onchange: null,
    addListener: () => undefined,
    removeListener: () => undefined,
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
    dispatchEvent: () => false,
  }),
  ResizeObserver: class {
    observe() {}
    unobserve() {}
    disconnect() {}
  },
  IntersectionObserver: class {
    observe() {}
    unobserve() {}
    disconnect() {}
  },
});
Element.prototype.scrollIntoView = () => undefined;
// Text has no place on a page without a layout.
Object.assign(Range.prototype, {
  getClientRects: () => [],
  getBoundingClientRect: () => new DOMRect(),
});
Object.defineProperty(document, 'fonts', {
  value: { addEventListener: () => undefined, ready: Promise.resolve() },
});
