import { Nav } from "react-bootstrap";
import { Link, NavLink, useParams } from "react-router";
import { ApiError } from "../api/client";
import { useBlade, usePlan } from "../api/queries";
import { ClayTab } from "../clay/clay";
import { PlanTab } from "../plan/plan";
import { RackSide } from "../rack/rack-side";
import { ReadingsTab } from "../readings/readings";
import { ReadyTab } from "../ready/ready";
import { PURPOSES } from "../words/names";
import css from "./blade.module.css";
import { FireTab } from "./fire";
import { StoryTab } from "./story";
import { ToPlan } from "./to-plan";

const TABS = [
  ["ready", "Ready"],
  ["plan", "Plan"],
  ["clay", "Clay"],
  ["fire", "Fire"],
  ["readings", "Readings"],
  ["story", "Story"],
] as const;

/** One blade: what it is, its plan, its firings, its readings. */
export function BladePage() {
  const { id = "", tab = "plan" } = useParams();
  const blade = useBlade(id);
  const plan = usePlan(id);
  const b = blade.data;
  return (
    <div className="with-rack">
      <RackSide current={id} />
      <main className="main">
        {blade.error instanceof ApiError && (
          <p className="page">
            {blade.error.message} <Link to="/">To the rack</Link>
          </p>
        )}
        {b && (
          <>
            <header className="head">
              <h1>{b.name}</h1>
              <span className="num">{b.mark}</span>
              <span className="soft">
                {b.steel_name} · {PURPOSES[b.purpose]} · wanted {b.target_low_hrc} to{" "}
                {b.target_high_hrc} HRC
              </span>
              <Nav as="nav" className={css.tabs} aria-label="Blade">
                {TABS.map(([key, name]) => (
                  <Nav.Link
                    key={key}
                    as={NavLink}
                    to={`/blades/${id}/${key}`}
                    className={key === tab ? "on" : ""}
                  >
                    {name}
                  </Nav.Link>
                ))}
              </Nav>
            </header>
            {["ready", "plan", "clay"].includes(tab) && (
              <ToPlan>
                {tab === "ready" && <ReadyTab key={b.id} blade={b} plan={plan.data} />}
                {tab === "plan" && plan.data && (
                  <PlanTab key={plan.data.id} blade={b} plan={plan.data} />
                )}
                {tab === "clay" && <ClayTab key={b.id} blade={b} plan={plan.data} />}
              </ToPlan>
            )}
            {tab === "fire" && <FireTab blade={b} plan={plan.data} />}
            {tab === "story" && <StoryTab key={b.id} blade={b} />}
            {tab === "readings" && <ReadingsTab key={b.id} blade={b} plan={plan.data} />}
          </>
        )}
      </main>
    </div>
  );
}
