import { useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, type LadderTreatment, type LadderView, type Medium, take } from "../api/client";
import { queries, useStations } from "../api/queries";
import { ChoiceField, QuantityField, Saved, useSavedForm } from "../fields/saved-form";
import { usualBath } from "../plan/quench-fields";
import { MEDIA } from "../words/names";
import css from "./steels.module.css";

type Written = Omit<LadderTreatment, "stations" | "tester" | "times"> & {
  times: string;
  kiln: string;
  oven: string;
  tester: string;
};

const TIMES = { 1: "once", 2: "twice", 3: "three times" };

/** What all coupons of a ladder go through alike. */
export function LadderTreatmentForm(props: { ladder: LadderView; onDone: () => void }) {
  const { ladder } = props;
  const client = useQueryClient();
  const stations = useStations();
  const of = (...kinds: string[]) =>
    Object.fromEntries(
      (stations.data ?? []).filter((s) => kinds.includes(s.kind)).map((s) => [s.id, s.name]),
    );
  const { stations: at, tester, times, ...rest } = ladder.treatment;
  const { form, run, submit, wrong } = useSavedForm({
    values: {
      ...rest,
      times: String(times),
      kiln: at?.kiln ?? "",
      oven: at?.oven ?? "",
      tester: tester ?? "",
    } as Written,
    fieldOf: {
      "treatment.thickness_mm": "thickness_mm",
      "treatment.heat_c": "heat_c",
      "treatment.hold_s": "hold_s",
    },
    save: ({ kiln, oven, tester, times, ...rest }) =>
      take(
        api.PUT("/api/v1/ladders/{id}", {
          params: { path: { id: ladder.id } },
          body: {
            name: ladder.name,
            treatment: {
              ...rest,
              times: Number(times),
              stations: { kiln: kiln || null, oven: oven || null },
              tester: tester || null,
            },
            rungs: ladder.rungs,
            version: ladder.version,
          },
        }),
      ),
    onSaved: (saved) => {
      client.setQueryData(queries.ladder(ladder.id).queryKey, saved);
      props.onDone();
    },
  });
  const heats = ladder.along === "heats";
  return (
    <form className={css["bar-form"]} onSubmit={submit} aria-label="What all coupons go through">
      <div className="tool-row">
        <QuantityField
          form={form}
          name="thickness_mm"
          label="Coupons, thick"
          kind="length"
          range={[1, 20]}
        />
        {!heats && (
          <QuantityField
            form={form}
            name="heat_c"
            label="Quenched from"
            kind="temperature"
            range={[650, 1300]}
          />
        )}
        <QuantityField form={form} name="soak_s" label="Soak" kind="time" range={[0, 604800]} />
        <ChoiceField form={form} name="medium" label="Quenched in" options={MEDIA} />
        <QuantityField
          form={form}
          name="bath_c"
          label="Bath at"
          kind="temperature"
          range={[-200, 1300]}
        />
        <Button
          variant="link"
          onClick={() => form.setValue("bath_c", usualBath(form.getValues("medium") as Medium))}
        >
          as warm as usual
        </Button>
      </div>
      <div className="tool-row">
        {!heats && (
          <>
            <QuantityField
              form={form}
              name="hold_s"
              label="Each temper"
              kind="time"
              range={[60, 604800]}
            />
            <ChoiceField form={form} name="times" label="Tempered" options={TIMES} asIs />
          </>
        )}
        <ChoiceField
          form={form}
          name="kiln"
          label="Fire"
          options={of("kiln", "forge")}
          placeholder="not said"
          asIs
        />
        {!heats && (
          <ChoiceField
            form={form}
            name="oven"
            label="Oven"
            options={of("oven", "kiln")}
            placeholder="not said"
            asIs
          />
        )}
        <ChoiceField
          form={form}
          name="tester"
          label="Tester"
          options={of("tester")}
          placeholder="not said"
          asIs
        />
      </div>
      <div className="row-of">
        <Button type="submit" disabled={run.isPending}>
          Keep it
        </Button>
        <Button variant="outline-primary" onClick={props.onDone}>
          Not now
        </Button>
        <Saved wrong={wrong} saved={false} word="" />
      </div>
    </form>
  );
}
