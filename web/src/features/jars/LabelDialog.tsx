import type { Component, Paper } from "@jar-count/core/contract";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { call, callFile } from "../../api/client.ts";
import { refusalOf, sentenceOf } from "../../api/refusal.ts";
import { Button, Fault, Labelled, Segmented } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { handOver } from "../../ui/handOver.ts";

const MOST = 2000;
/** How often is asked how far it is, ms. */
const ASK_MS = 400;

/** How many labels are drawn; 0 where nobody can say just now. */
const progressOf = (key: string): Promise<number> =>
  call("readLabelProgress", { params: { key } }).then(
    ({ done }) => done,
    () => 0,
  );

/** A sheet of labels for the jars that are listed. */
export function LabelDialog({ components, onClose }: { components: readonly Component[]; onClose: () => void }) {
  const [paper, setPaper] = useState<Paper>("a4");
  const [skip, setSkip] = useState(0);
  const each = paper === "a4" ? 24 : 30;
  const [done, setDone] = useState(0);
  const stopping = useRef<AbortController | null>(null);
  // Closed while it is made: nobody waits for it any more.
  useEffect(() => () => stopping.current?.abort(), []);
  const making = useMutation({
    mutationFn: async () => {
      const requestKey = crypto.randomUUID();
      const stop = (stopping.current = new AbortController());
      const asking = setInterval(() => void progressOf(requestKey).then(setDone), ASK_MS);
      setDone(0);
      try {
        const body = { requestKey, components: components.map((c) => c.id), paper, skip };
        return await callFile("printLabels", { body }, stop.signal);
      } finally {
        clearInterval(asking);
      }
    },
    onSuccess: (sheet) => {
      handOver("jar labels.pdf", sheet);
      onClose();
    },
  });
  const busy = making.isPending;
  const fault = sentenceOf(refusalOf(making.error));
  return (
    <Dialog title="Labels" open onClose={onClose}>
      <p className="mb-4">
        {sayNumber(components.length)} {components.length === 1 ? "label" : "labels"}, for the jars that are listed now,
        on {Math.ceil((components.length + skip) / each)} {components.length + skip > each ? "sheets" : "sheet"}. Each
        has the name, the code, its chip, and a QR code that opens the jar's count screen.
      </p>
      <div className="mb-4 flex flex-wrap items-end gap-4">
        <Segmented
          label="Paper"
          value={paper}
          options={[
            { value: "a4", label: "A4, 24 of 70 × 36 mm" },
            { value: "letter", label: "Letter, 30 of 1 × 2 3/4 in" },
          ]}
          onChange={setPaper}
        />
        <Labelled label="Used up on the first sheet">
          <NumberField className="field w-20" whole max={each - 1} value={skip} onChange={(n) => setSkip(n!)} />
        </Labelled>
      </div>
      {components.length > MOST && <Fault>At most {sayNumber(MOST)} at a time: search for fewer first.</Fault>}
      {fault && <Fault>{fault}</Fault>}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Not now</Button>
        <Button look="main" disabled={busy || components.length > MOST} onClick={() => making.mutate()}>
          {busy ? "Making the sheet …" : "Make the PDF"}
        </Button>
      </div>
      {busy && (
        <p role="status" className="flex items-center gap-3 pt-3 text-muted">
          <progress className="h-2 flex-1" max={components.length} value={done} aria-label="Labels made" />
          {sayNumber(done)} of {sayNumber(components.length)}
        </p>
      )}
    </Dialog>
  );
}
