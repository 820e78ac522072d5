import { useMutation } from "@tanstack/react-query";
import { Form } from "react-bootstrap";
import {
  type DefaultValues,
  type FieldValues,
  type Path,
  type UseFormReturn,
  useForm,
} from "react-hook-form";
import { ApiError } from "../api/client";
import { named } from "./choice";
import { Field } from "./field";
import { Options } from "./options";

/** A form that is saved by the server: what it says of a field stands at that field, anything else at
 * the form. */
export function useSavedForm<T extends FieldValues, S>(options: {
  values: T;
  save: (values: T) => Promise<S>;
  onSaved: (stored: S, form: UseFormReturn<T>) => void;
}) {
  const { values, save, onSaved } = options;
  const form = useForm<T>({ defaultValues: values as DefaultValues<T> });
  const run = useMutation({
    mutationFn: save,
    onSuccess: (stored) => onSaved(stored, form),
    onError: (error) => {
      const said = Object.entries(error instanceof ApiError ? error.fields : {});
      const known = said.filter(([name]) => name in values);
      for (const [name, message] of known) form.setError(name as Path<T>, { message });
      if (known.length === 0) form.setError("root", { message: error.message });
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
        <Form.Select {...tie} {...form.register(name)}>
          <Options of={named({ options, asIs })} placeholder={placeholder} />
        </Form.Select>
      )}
    </Field>
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
