import { packByOf } from "@jar-count/core/ahead";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { makeStale } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { throwAway } from "../../draft/index.ts";
import { Button, Labelled } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { checkName, TextField } from "../../ui/fields.tsx";
import { useBox, useBoxStore } from "./boxStore.ts";

/** The month and its theme. */
export function ThemeStage() {
  const { edit } = useBoxStore();
  const box = useBox((w) => w.box);
  const [asking, setAsking] = useState(false);
  const { send, busy, refusal } = useSend("deleteBox", () => {
    throwAway(`box/${box.id}`);
    return makeStale("boxes");
  });
  const fault = sentenceOf(refusal);
  const navigate = useNavigate();
  const remove = async () => {
    const gone = await send({ params: { id: box.id }, query: { version: box.version } });
    if (gone !== null) await navigate("/");
  };
  return (
    <section className="px-6 pt-6" aria-label="Theme">
      <div className="flex flex-wrap gap-4">
        <Labelled label="Month">
          <input
            type="month"
            className="field"
            value={box.month}
            onChange={(e) => e.target.value && edit((b) => ({ ...b, month: e.target.value }))}
          />
        </Labelled>
        <Labelled
          label="Packed by"
          hint={box.packBy ? undefined : "the 20th of the month before, unless you say another"}
        >
          <input
            type="date"
            className="field w-40"
            value={packByOf(box)}
            onChange={(e) => edit((b) => ({ ...b, packBy: e.target.value || null }))}
          />
        </Labelled>
        <Labelled label="Theme" className="w-96 max-w-full">
          <TextField
            className="field w-full"
            value={box.theme}
            check={checkName}
            onChange={(theme) => edit((b) => ({ ...b, theme }), "theme")}
          />
        </Labelled>
      </div>
      <Button look="quiet" className="mt-10 text-short" onClick={() => setAsking(true)}>
        <Trash2 size={15} aria-hidden /> Take this month out
      </Button>
      <Dialog title={`Take ${box.theme.slice(0, 60)} out?`} open={asking} onClose={() => setAsking(false)}>
        <p className="mb-4">Its colour tray and numbers go with it and can't be brought back. Designs and jars stay.</p>
        {fault && (
          <p role="alert" className="mb-4 font-medium text-short">
            {fault}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={() => setAsking(false)}>Keep it</Button>
          <Button look="danger" disabled={busy} onClick={() => void remove()}>
            Take it out
          </Button>
        </div>
      </Dialog>
    </section>
  );
}
