import type { ButtonHTMLAttributes, ReactNode } from "react";

export type Look = "main" | "plain" | "quiet" | "danger";
export const LOOKS: Record<Look, string> = {
  main: "bg-action-fill text-on-action font-semibold hover:brightness-110",
  plain: "border border-edge bg-paper font-medium hover:bg-hush",
  quiet: "font-medium text-action hover:bg-hush",
  danger: "border border-short text-short font-semibold hover:bg-hush",
};
export const BUTTON =
  "inline-flex h-9 items-center justify-center gap-1.5 rounded-md px-3 whitespace-nowrap disabled:opacity-55 ";

export function Button({
  look = "plain",
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look }) {
  return <button type="button" className={BUTTON + LOOKS[look] + " " + className} {...rest} />;
}

/** A button that is only an icon: its name is spoken and shown on hover. */
export function IconButton({
  label,
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { label: string }) {
  return <button type="button" aria-label={label} title={label} className={`icon-button ${className}`} {...rest} />;
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
    <div
      role="group"
      aria-label={label}
      className="inline-flex max-w-full flex-wrap rounded-md border border-edge p-0.5"
    >
      {options.map((option) => (
        <button
          key={option.value}
          type="button"
          aria-pressed={option.value === value}
          onClick={() => onChange(option.value)}
          className={`h-7 rounded px-2.5 text-sm whitespace-nowrap ${
            option.value === value ? "bg-ink font-semibold text-paper" : "hover:bg-hush"
          }`}
        >
          {option.label}
        </button>
      ))}
    </div>
  );
}
