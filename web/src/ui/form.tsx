import { zodResolver } from "@hookform/resolvers/zod";
import type { ErrorBody } from "@jar-count/core/contract";
import { type ReactNode, useEffect } from "react";
import {
  Controller,
  type ControllerRenderProps,
  type DefaultValues,
  type FieldErrors,
  type FieldPath,
  type FieldValues,
  type Resolver,
  useForm,
  type UseFormReturn,
} from "react-hook-form";
import type { z } from "zod";
import { Fault, Labelled } from "./controls.tsx";

interface Asked<Values extends FieldValues> {
  /** What is sent has to fit this part of the contract. */
  schema: z.ZodType;
  /** What the form begins with. */
  start: Values;
  /** Makes of what is filled in what is sent; what is wrong at a path of that stands at the field of the same path. */
  toSend?: (values: Values) => unknown;
  /** What the server refused, and where in what was sent the form's own fields stand, such as `/order`. */
  refusal?: ErrorBody | null;
  at?: string;
}

/**
 * The one way to make a form of several fields: react-hook-form keeps what is filled in, the contract judges it before
 * it is sent (not as a field is left: a message that comes or goes would move the button from under the pointer), and
 * what the contract or the server refuses stands at its field, until what is there is right.
 */
export function useContractForm<Values extends FieldValues>(asked: Asked<Values>): UseFormReturn<Values> {
  const { schema, start, toSend = (values: Values) => values, refusal = null, at = "" } = asked;
  const resolver: Resolver<Values> = async (values, context, options) => {
    const checked = await zodResolver(schema as never)(toSend(values) as never, context, options as never);
    if (Object.keys(checked.errors).length === 0) return { values, errors: {} };
    return { values: {}, errors: inPlainWords(checked.errors as FieldErrors) as FieldErrors<Values> };
  };
  const form = useForm<Values>({ defaultValues: start as DefaultValues<Values>, resolver });
  useRefusalAtFields(form, refusal, at);
  return form;
}

/** Puts what the server refused at the fields that it names; `at` is where the form's own fields stand in the body. */
export function useRefusalAtFields<Values extends FieldValues>(
  { setError, clearErrors }: UseFormReturn<Values>,
  refusal: ErrorBody | null,
  at: string,
): void {
  useEffect(() => {
    if (!refusal) clearErrors();
    for (const { pointer, detail } of refusal?.errors ?? []) {
      if (!pointer.startsWith(`${at}/`)) continue;
      const path = pointer.slice(at.length + 1).replaceAll("/", ".") as FieldPath<Values>;
      setError(path, { type: "refused", message: detail });
    }
  }, [refusal, at, setError, clearErrors]);
}

/** What a validator says of a value of another type is of no use to who fills the form in. */
const say = (message: string) =>
  /invalid input|expected/i.test(message) ? "Write a number, or leave it empty." : message;

function inPlainWords(errors: FieldErrors): FieldErrors {
  return Object.fromEntries(
    Object.entries(errors).map(([name, error]) => {
      if (!error) return [name, error];
      if (Array.isArray(error)) return [name, error.map((each) => each && inPlainWords(each))];
      if (typeof error.message === "string") return [name, { type: "contract", message: say(error.message) }];
      return [name, "root" in error ? error : inPlainWords(error as FieldErrors)];
    }),
  ) as FieldErrors;
}

interface FieldProps<Values extends FieldValues, Name extends FieldPath<Values>> {
  form: UseFormReturn<Values>;
  name: Name;
  /** Without a label, in a table, the field names itself by `aria-label`. */
  label?: string;
  hint?: string | undefined;
  className?: string;
  /** Draws the field: spread over an `input` or a `select`, a `NumberField`, or with `mm` a `LengthField`. */
  children: (field: ControllerRenderProps<Values, Name> & { "aria-invalid": true | undefined }) => ReactNode;
}

/** One field of a form, with what is wrong with it under it. */
export function Field<Values extends FieldValues, Name extends FieldPath<Values>>(props: FieldProps<Values, Name>) {
  const { form, name, label, hint, className, children } = props;
  return (
    <Controller
      control={form.control}
      name={name}
      render={({ field, fieldState: { error } }) => {
        const drawn = children({ ...field, "aria-invalid": error ? true : undefined });
        // Of a list that is refused as a whole, the message stands at its root.
        const fault = error?.message ?? error?.root?.message;
        if (label !== undefined) {
          return (
            <Labelled label={label} hint={hint} fault={fault} className={className}>
              {drawn}
            </Labelled>
          );
        }
        return (
          <span className={`flex flex-col ${className ?? ""}`}>
            {drawn}
            {fault && <Fault>{fault}</Fault>}
          </span>
        );
      }}
    />
  );
}

/** Whether something that was filled in can't be sent yet: said beside the button. */
export function MendFirst<Values extends FieldValues>({ form }: { form: UseFormReturn<Values> }) {
  if (Object.keys(form.formState.errors).length === 0) return null;
  return <Fault>Something above can’t be saved yet: see what is marked.</Fault>;
}
