import { type ComponentType, type ReactNode, useEffect, useState } from "react";
import { Waiting } from "./page.tsx";

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
      if (!Found) load().then((found) => setFound(() => found), setError);
    }, [Found]);
    if (Found) return <Found {...props} />;
    return waiting && !error ? (
      waiting(props)
    ) : (
      <Waiting
        error={error && new Error("The page's code could not be fetched. Look at the connection, then try again.")}
        what="this page"
        retry={() => location.reload()}
      />
    );
  }
  return Object.assign(Later, { load });
}
