/** Why something that does not fit may stand: the note, who said so, and when. */
export function NoteOf({ of: { note, who, on } }: { of: { note: string; who: string; on: string } }) {
  return (
    <>
      “{note}” <span className="text-muted">{[who, on].filter(Boolean).join(", ")}</span>
    </>
  );
}
