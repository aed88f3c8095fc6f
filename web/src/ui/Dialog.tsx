import { X } from "lucide-react";
import { Dialog as RadixDialog } from "radix-ui";
import type { ReactNode } from "react";
import { IconButton } from "./controls.tsx";

/** Something asked in between, over the page. */
export function Dialog({
  title,
  open,
  onClose,
  children,
  wide,
  returnTo,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
  /** What gets the focus when it closes, where that is not what opened it. */
  returnTo?: HTMLElement;
}) {
  return (
    <RadixDialog.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <RadixDialog.Content
          aria-describedby={undefined}
          onCloseAutoFocus={(e) => {
            if (!returnTo) return;
            e.preventDefault();
            returnTo.focus();
          }}
          className={
            "fixed top-[8vh] left-1/2 z-50 max-h-[84vh] w-[calc(100vw-2rem)] -translate-x-1/2 overflow-y-auto " +
            `rounded-lg bg-paper p-6 shadow-xl ${wide ? "max-w-3xl" : "max-w-lg"}`
          }
        >
          <div className="mb-4 flex items-start justify-between gap-4">
            <RadixDialog.Title className="font-serif text-lg">{title}</RadixDialog.Title>
            <RadixDialog.Close asChild>
              <IconButton label="Close">
                <X size={18} />
              </IconButton>
            </RadixDialog.Close>
          </div>
          <div className="@container">{children}</div>
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}

/** The buttons of a dialog, in sight however long what stands above them is. */
export function DialogFoot({ children }: { children: ReactNode }) {
  return (
    <div
      className={
        "sticky -bottom-6 -mx-6 mt-5 -mb-6 flex flex-wrap justify-end gap-2 border-t border-rule bg-paper px-6 py-4"
      }
    >
      {children}
    </div>
  );
}
