import { useShallow } from "zustand/react/shallow";
import { useStore } from "zustand";
import { BenchLog } from "./BenchLog.tsx";
import { type BenchDialog, useBench, useBenchStore } from "./benchStore.ts";
import { FitDialog } from "./FitDialog.tsx";
import { LengthDialog } from "./LengthDialog.tsx";
import { MethodDialog } from "./MethodDialog.tsx";
import { Revisions } from "./Revisions.tsx";
import { WhatDiffers } from "./WhatDiffers.tsx";

/** What opens over the bench: its log, its revisions, and what differs between sizes and options. */
export function BenchDialogs() {
  const dialog = useBench((b) => b.dialog);
  return dialog && <Opened dialog={dialog} />;
}

function Opened({ dialog }: { dialog: BenchDialog }) {
  const { id, draft, set } = useBenchStore();
  const { design, size, option } = useBench(useShallow(({ design, size, option }) => ({ design, size, option })));
  const revision = useStore(draft, (d) => d.version);
  const { edit } = draft.getState();
  const close = () => set({ dialog: null });
  if (dialog === "fit") return <FitDialog onClose={close} />;
  if (dialog === "length") return <LengthDialog onClose={close} />;
  if (dialog === "method") return <MethodDialog onClose={close} />;
  if (dialog === "differ") return <WhatDiffers design={design} onClose={close} />;
  if (dialog === "revisions") {
    return (
      <Revisions
        id={id}
        design={design}
        onClose={close}
        onTakeUp={(old, no) => {
          edit(() => old);
          set({ why: `Back to revision ${no}`, dialog: null });
        }}
      />
    );
  }
  return (
    <BenchLog
      id={id}
      revision={revision}
      design={design}
      size={size}
      option={option}
      onClose={close}
      onCorrect={(corrected, reason) => {
        edit(() => corrected);
        set({ why: reason.slice(0, 500), dialog: null });
      }}
    />
  );
}
