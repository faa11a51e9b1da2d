/** What modules of the pages ask of their window when they are read; here nobody presses or leaves anything. */
Object.assign(globalThis, {
  window: { addEventListener: () => undefined },
  localStorage: { getItem: () => null, setItem: () => undefined },
});
