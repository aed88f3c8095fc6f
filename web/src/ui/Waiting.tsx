import { Refused } from "../api/client.ts";
import { Button } from "./controls.tsx";

/** A page that can't be shown yet, or at all. */
export function Waiting({ error, what, retry }: { error: Error | null; what: string; retry?: () => void }) {
  if (!error)
    return (
      <p className="p-8 text-muted" role="status">
        Fetching {what} …
      </p>
    );
  const gone = error instanceof Refused && error.code === "not-found";
  return (
    <div className="p-8" role="alert">
      <h1 className="mb-2">{gone ? "Not here" : "Not to be had just now"}</h1>
      <p className="mb-4 max-w-prose">{error.message}</p>
      {!gone && retry && <Button onClick={retry}>Try again</Button>}
    </div>
  );
}
