import { useMutation } from "@tanstack/react-query";
import { useId } from "react";
import { Form } from "react-bootstrap";
import {
  Controller,
  type DefaultValues,
  type FieldValues,
  type Path,
  type UseFormReturn,
  useForm,
} from "react-hook-form";
import { ApiError } from "../api/client";
import type { Kind } from "../quantity/parse";
import { QuantityInput } from "../quantity/quantity-input";
import { named } from "./choice";
import { Field } from "./field";
import { Options } from "./options";

/** Fields that are wrong before anything is sent, each with what is wrong. */
export class WrongFields extends Error {
  constructor(readonly fields: Record<string, string>) {
    super("Some of it needs another look.");
  }
}

/** A form that is saved by the server: what it says of a field stands at that field, anything else at
 * the form. What `save` throws of itself stands at the form too. */
export function useSavedForm<T extends FieldValues, S>(options: {
  values: T;
  save: (values: T) => Promise<S>;
  onSaved: (stored: S, form: UseFormReturn<T>) => void;
  /** Where what is stored changes meanwhile, it is followed, but for what was written here. */
  follow?: boolean;
  /** The field that the server calls so, where the form calls it otherwise. */
  fieldOf?: Record<string, Path<T>>;
}) {
  const { values, save, onSaved, fieldOf = {} } = options;
  const form = useForm<T>({
    defaultValues: values as DefaultValues<T>,
    ...(options.follow ? { values, resetOptions: { keepDirtyValues: true } } : {}),
  });
  const run = useMutation({
    mutationFn: save,
    onSuccess: (stored, written) => {
      // What was written since is still to be kept.
      if (options.follow) form.reset(written, { keepDirtyValues: false, keepValues: true });
      onSaved(stored, form);
    },
    onError: (error) => {
      const tells = error instanceof ApiError || error instanceof WrongFields;
      const said = Object.entries(tells ? error.fields : {});
      const path = (name: string) =>
        fieldOf[name] ??
        ((name.split(/[.[]/)[0] ?? "") in values
          ? (name.replace(/\[(\d+)\]/g, ".$1") as Path<T>)
          : undefined);
      const known = said.flatMap(([name, message]) => {
        const at = path(name);
        return at ? [{ at, message }] : [];
      });
      for (const { at, message } of known) form.setError(at, { message });
      if (known.length === 0) form.setError("root", { message: said[0]?.[1] ?? error.message });
    },
  });
  return {
    form,
    run,
    submit: form.handleSubmit((written) => run.mutate(written)),
    /** What is wrong that is of no field. */
    wrong: form.formState.errors.root?.message,
  };
}

interface FieldProps<T extends FieldValues> {
  form: UseFormReturn<T>;
  name: Path<T>;
  label: string;
}

function messageOf<T extends FieldValues>(form: UseFormReturn<T>, name: Path<T>) {
  return form.getFieldState(name, form.formState).error?.message;
}

/** A line of text of a form. */
export function TextField<T extends FieldValues>(props: FieldProps<T> & { max: number }) {
  const { form, name, label, max } = props;
  return (
    <Field label={label} error={messageOf(form, name)}>
      {(tie) => <Form.Control {...tie} maxLength={max} {...form.register(name)} />}
    </Field>
  );
}

/** A password in a form; what it is to the browser's own store of them. */
export function PasswordField<T extends FieldValues>(
  props: FieldProps<T> & { complete: "current-password" | "new-password" },
) {
  const { form, name, label, complete } = props;
  return (
    <Field label={label} error={messageOf(form, name)}>
      {(tie) => (
        <Form.Control
          {...tie}
          type="password"
          maxLength={200}
          autoComplete={complete}
          {...form.register(name)}
        />
      )}
    </Field>
  );
}

/** One of a list, in a form. */
export function ChoiceField<T extends FieldValues>(
  props: FieldProps<T> & {
    options: Record<string, string>;
    placeholder?: string;
    /** The names are units or proper names: not to be capitalized. */
    asIs?: boolean;
  },
) {
  const { form, name, label, options, placeholder, asIs } = props;
  return (
    <Field label={label} error={messageOf(form, name)}>
      {(tie) => (
        // Told its value at every render: the options may come later than it.
        <Form.Select {...tie} {...form.register(name)} value={form.watch(name)}>
          <Options of={named({ options, asIs })} placeholder={placeholder} />
        </Form.Select>
      )}
    </Field>
  );
}

/** A box to be ticked, in a form. */
export function CheckField<T extends FieldValues>({ form, name, label }: FieldProps<T>) {
  const id = useId();
  return <Form.Check id={id} type="checkbox" label={label} {...form.register(name)} />;
}

/** A quantity in the units chosen, in a form. */
export function QuantityField<T extends FieldValues>(
  props: FieldProps<T> & {
    kind: Kind;
    range: [number, number];
    onChange?: (value: number) => void;
  },
) {
  const { form, name, onChange, ...given } = props;
  return (
    <Controller
      control={form.control}
      name={name}
      render={({ field }) => (
        <QuantityInput
          {...given}
          value={field.value}
          error={messageOf(form, name)}
          onChange={(value) => {
            field.onChange(value);
            onChange?.(value);
          }}
        />
      )}
    />
  );
}

/** What is wrong with a form as a whole, or that it was kept. */
export function Saved(props: { wrong?: string; saved: boolean; word: string }) {
  if (props.wrong) {
    return (
      <span className="wrong" role="alert">
        {props.wrong}
      </span>
    );
  }
  return props.saved ? (
    <span className="soft" role="status">
      {props.word}
    </span>
  ) : null;
}
