import { zodResolver } from "@hookform/resolvers/zod";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Form } from "react-bootstrap";
import { useForm } from "react-hook-form";
import { v7 as uuid } from "uuid";
import * as z from "zod/mini";
import { ApiError, api, take } from "../api/client";
import { queries } from "../api/queries";
import { Field } from "../fields/field";
import { readAnalysis } from "./analysis";
import { ElementFields } from "./element-fields";
import css from "./steels.module.css";

export const schema = z.object({
  name: z
    .string()
    .check(z.trim(), z.minLength(1, "Give it a name."), z.maxLength(60, "At most 60 characters.")),
  analysis: z.record(z.string(), z.string()),
});

type Written = z.infer<typeof schema>;

export function OwnSteel({ onDone }: { onDone: (key: string) => void }) {
  const client = useQueryClient();
  const form = useForm<Written>({
    resolver: zodResolver(schema),
    defaultValues: { name: "", analysis: {} },
  });
  const add = useMutation({
    mutationFn: (body: { name: string; analysis: Record<string, number> }) =>
      take(api.POST("/api/v1/steels", { body: { id: uuid(), ...body } })),
    onSuccess: (steel) => {
      client.invalidateQueries({ queryKey: queries.steels.queryKey });
      onDone(steel.key);
    },
  });
  const server = add.error instanceof ApiError ? add.error.fields : {};
  const errors = form.formState.errors;
  return (
    <form
      className={css["own-steel"]}
      onSubmit={form.handleSubmit((written) => {
        const read = readAnalysis(written.analysis);
        for (const [symbol, message] of Object.entries(read.errors)) {
          form.setError(`analysis.${symbol}`, { message });
        }
        if (Object.keys(read.errors).length === 0) {
          add.mutate({ name: written.name, analysis: read.analysis });
        }
      })}
    >
      <Field id="steel-name" label="Name" error={errors.name?.message ?? server.name}>
        {(tie) => <Form.Control {...tie} {...form.register("name")} />}
      </Field>
      <ElementFields
        id="element"
        error={(symbol) => errors.analysis?.[symbol]?.message ?? server[`analysis.${symbol}`]}
        input={(symbol) => form.register(`analysis.${symbol}`)}
      />
      <Button type="submit" disabled={add.isPending}>
        Add steel
      </Button>
      {add.error && Object.keys(server).length === 0 && (
        <div className="wrong" role="alert">
          {add.error.message}
        </div>
      )}
    </form>
  );
}
