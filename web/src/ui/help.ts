/** What `?` opens where one is: a page that has help of its own registers it; elsewhere it is the help page. */
let own: (() => void) | null = null;

/** Registers a page's own help. @returns how to end */
export function helpHere(open: () => void): () => void {
  own = open;
  return () => {
    if (own === open) own = null;
  };
}

/** Opens the help of the page at hand; returns whether it has one. */
export function openHelpHere(): boolean {
  own?.();
  return own !== null;
}
