import { type ComponentType, type ReactNode, useEffect, useState } from "react";
import { isAway, noteAway, onAway } from "../api/client.ts";
import { Waiting } from "./Waiting.tsx";

/**
 * A component whose code is fetched when it is first shown, or before by its `load`. Once it is here it is shown in the
 * same breath: a suspended one would be held back a moment by React, so that fallbacks don't flicker.
 */
export function later<P extends object>(fetchIt: () => Promise<ComponentType<P>>, waiting?: (props: P) => ReactNode) {
  let here: ComponentType<P> | null = null;
  let coming: Promise<ComponentType<P>> | null = null;
  const load = () =>
    (coming ??= fetchIt()
      .then((found) => (here = found))
      .catch((error: unknown) => {
        coming = null; // to be tried again
        throw error;
      }));
  function Later(props: P) {
    const [Found, setFound] = useState<ComponentType<P> | null>(() => here);
    const [error, setError] = useState<Error | null>(null);
    useEffect(() => {
      if (Found) return;
      const show = (found: ComponentType<P>) => setFound(() => found);
      load().then(show, (missing: Error) => {
        noteAway();
        setError(missing);
      });
      // When the server is back it is fetched once more; some browsers remember that it was not there, until a reload.
      // Without a connection a reload would lose the page.
      return onAway(() => {
        if (!isAway() && !here) load().then(show, () => navigator.onLine && location.reload());
      });
    }, [Found]);
    if (Found) return <Found {...props} />;
    return waiting && !error ? (
      waiting(props)
    ) : (
      <Waiting
        error={
          error && new Error("The page's code can't be fetched just now. It comes by itself when the server is back.")
        }
        what="this page"
      />
    );
  }
  return Object.assign(Later, { load });
}
