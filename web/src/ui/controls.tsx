import { Dialog as RadixDialog } from "radix-ui";
import { X } from "lucide-react";
import type { ButtonHTMLAttributes, ReactNode } from "react";
import { Link, type LinkProps } from "react-router";

type Look = "main" | "plain" | "quiet" | "danger";
const LOOKS: Record<Look, string> = {
  main: "bg-action-fill text-on-action font-semibold hover:brightness-110",
  plain: "border border-edge bg-paper font-medium hover:bg-hush",
  quiet: "font-medium text-action hover:bg-hush",
  danger: "border border-short text-short font-semibold hover:bg-hush",
};
const BUTTON =
  "inline-flex h-9 items-center justify-center gap-1.5 rounded-md px-3 whitespace-nowrap disabled:opacity-55 ";

export function Button({
  look = "plain",
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look }) {
  return <button type="button" className={BUTTON + LOOKS[look] + " " + className} {...rest} />;
}

export function ButtonLink({ look = "plain", className = "", ...rest }: LinkProps & { look?: Look }) {
  return <Link className={BUTTON + LOOKS[look] + " " + className} {...rest} />;
}

/** A button that is only an icon: its name is spoken and shown on hover. */
export function IconButton({
  label,
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { label: string }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      className={`inline-grid size-8 place-items-center rounded text-muted hover:bg-hush hover:text-ink disabled:opacity-40 ${className}`}
      {...rest}
    />
  );
}

/** A labelled field; what is wrong with it stands under it. */
export function Labelled({
  label,
  hint,
  fault,
  children,
  className = "",
}: {
  label: ReactNode;
  hint?: ReactNode;
  fault?: string | null | undefined;
  children: ReactNode;
  className?: string;
}) {
  return (
    <label className={`flex flex-col gap-1 ${className}`}>
      <span className="text-xs text-muted">{label}</span>
      {children}
      {fault ? (
        // A long message goes on below rather than push the fields beside it away.
        <span className="max-w-56 leading-4">
          <Fault>{fault}</Fault>
        </span>
      ) : hint ? (
        <span className="text-xs text-muted">{hint}</span>
      ) : null}
    </label>
  );
}

export function Fault({ children }: { children: ReactNode }) {
  return (
    <span role="alert" className="text-xs font-medium text-short">
      {children}
    </span>
  );
}

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
          className={`fixed top-[8vh] left-1/2 z-50 max-h-[84vh] w-[calc(100vw-2rem)] -translate-x-1/2 overflow-y-auto rounded-lg bg-paper p-6 shadow-xl ${wide ? "max-w-3xl" : "max-w-lg"}`}
        >
          <div className="mb-4 flex items-start justify-between gap-4">
            <RadixDialog.Title className="font-serif text-lg">{title}</RadixDialog.Title>
            <RadixDialog.Close asChild>
              <IconButton label="Close">
                <X size={18} />
              </IconButton>
            </RadixDialog.Close>
          </div>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}

/** What stands where nothing is yet: what belongs here, and the first step. */
export function Empty({ title, children, action }: { title: string; children: ReactNode; action?: ReactNode }) {
  return (
    <div className="mx-auto my-12 max-w-md text-center">
      <h2 className="mb-1">{title}</h2>
      <p className="mb-4 text-muted">{children}</p>
      {action}
    </div>
  );
}

export function Segmented<V extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: V;
  options: readonly { value: V; label: string }[];
  onChange: (value: V) => void;
}) {
  return (
    <div role="group" aria-label={label} className="inline-flex rounded-md border border-edge p-0.5">
      {options.map((option) => (
        <button
          key={option.value}
          type="button"
          aria-pressed={option.value === value}
          onClick={() => onChange(option.value)}
          className={`h-7 rounded px-2.5 text-sm whitespace-nowrap ${option.value === value ? "bg-ink font-semibold text-paper" : "hover:bg-hush"}`}
        >
          {option.label}
        </button>
      ))}
    </div>
  );
}
