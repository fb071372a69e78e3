"use client";

import { Field, Input, NativeSelect, Textarea } from "@chakra-ui/react";
import type { ReactNode } from "react";

interface Base {
  label: string;
  value: string;
  onChange(value: string): void;
  error?: string;
  help?: ReactNode;
  disabled?: boolean;
}

/** A labelled line of text that tells its own mistake. */
export function TextField(
  props: Base & {
    type?: "text" | "password" | "email";
    placeholder?: string;
    lines?: number;
    autoFocus?: boolean;
  },
) {
  const { label, value, onChange, error, help, lines, type = "text", ...rest } = props;
  const common = {
    value,
    bg: "surface",
    onChange: (event: { target: { value: string } }) => onChange(event.target.value),
    ...rest,
  };
  return (
    <Field.Root invalid={Boolean(error)}>
      <Field.Label>{label}</Field.Label>
      {lines ? (
        <Textarea rows={lines} {...common} />
      ) : (
        <Input type={type} size="sm" autoComplete="off" {...common} />
      )}
      {help && !error && <Field.HelperText>{help}</Field.HelperText>}
      <Field.ErrorText>{error}</Field.ErrorText>
    </Field.Root>
  );
}

/** A labelled choice among a few. */
export function SelectField(props: Base & { options: [value: string, title: string][] }) {
  const { label, value, onChange, error, help, options, disabled } = props;
  return (
    <Field.Root invalid={Boolean(error)} disabled={disabled}>
      <Field.Label>{label}</Field.Label>
      <NativeSelect.Root size="sm">
        <NativeSelect.Field bg="surface" value={value} onChange={(event) => onChange(event.target.value)}>
          {options.map(([option, title]) => (
            <option key={option} value={option}>
              {title}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      {help && !error && <Field.HelperText>{help}</Field.HelperText>}
      <Field.ErrorText>{error}</Field.ErrorText>
    </Field.Root>
  );
}

/** A labelled choice of a file. */
export function FileField(props: { label: string; accept?: string; onChange(file: File | null): void }) {
  return (
    <Field.Root w="auto">
      <Field.Label>{props.label}</Field.Label>
      <Input
        type="file"
        size="sm"
        bg="surface"
        pt="4px"
        accept={props.accept}
        onChange={(event) => props.onChange(event.target.files?.[0] ?? null)}
      />
    </Field.Root>
  );
}
