import { lazy, Suspense, useEffect } from "react";
import Nav from "react-bootstrap/Nav";
import { BrowserRouter, Link, NavLink, Outlet, Route, Routes, useLocation } from "react-router";
import { Mark } from "./account/mark";
import type { Session } from "./api/client";
import { useRack } from "./api/queries";
import { Boundary, Broken } from "./boundary";
import { useKeysOn } from "./keys";
import { fetchPlaces, page } from "./page";
import type { Units } from "./quantity/parse";
import { UnitsProvider, useUnits } from "./quantity/units";

const BenchSheet = page(() => import("./blade/bench-sheet").then((m) => m.BenchSheet));
const BladePage = page(() => import("./blade/blade").then((m) => m.BladePage));
const CompareBladesPage = page(() => import("./compare/compare").then((m) => m.CompareBladesPage));
const DayPage = page(() => import("./day/day").then((m) => m.DayPage));
const FiringPage = page(() => import("./firing/firing").then((m) => m.FiringPage));
const LessonsPage = page(() => import("./lessons/lessons").then((m) => m.LessonsPage));
const ShopPage = page(() => import("./shop/shop").then((m) => m.ShopPage));
const StationsPage = page(() => import("./stations/stations").then((m) => m.StationsPage));
const BarsPage = page(() => import("./steels/bars").then((m) => m.BarsPage));
const ComparePage = page(() => import("./steels/compare").then((m) => m.ComparePage));
const SteelsPage = page(() => import("./steels/steels").then((m) => m.SteelsPage));
const LaddersPage = page(() => import("./steels/ladders").then((m) => m.LaddersPage));
const TrialsPage = page(() => import("./steels/trials").then((m) => m.TrialsPage));
// Not waited for: what was pressed at the fire is on the device already.
const JournalAtWork = lazy(() =>
  import("./firing/journal-at-work").then((m) => ({ default: m.JournalAtWork })),
);
const Live = lazy(() => import("./api/live").then((m) => ({ default: m.Live })));
const Ringing = lazy(() => import("./firing/ringing").then((m) => ({ default: m.Ringing })));
const RackPage = page(() => import("./rack/rack").then((m) => m.RackPage));

const PLACES = [
  ["/", "Rack"],
  ["/day", "Day"],
  ["/steels", "Steels"],
  ["/stations", "Stations"],
  ["/lessons", "Lessons"],
  ["/shop", "Shop"],
] as const;

function Frame({ session }: { session: Session }) {
  const { units, toggle } = useUnits();
  const keys = useKeysOn();
  const rack = useRack();
  const { pathname } = useLocation();
  const firing = (rack.data ?? []).find((b) => b.firing_open && b.firing_id);
  return (
    <>
      <a className="skip" href="#content">
        To the content
      </a>
      <header className="top-bar">
        <Link to="/" className="brand">
          <Mark /> vatten
        </Link>
        <Nav as="nav" aria-label="Places">
          {PLACES.map(([to, name]) => (
            <Nav.Link key={to} as={NavLink} to={to} end={to === "/"}>
              {name}
            </Nav.Link>
          ))}
        </Nav>
        <span className="right">
          <button
            type="button"
            className="units num"
            onClick={toggle}
            title={keys ? "Change units (U)" : "Change units"}
          >
            {units.temperature === "c" ? "°C mm" : "°F in"}
          </button>
          <span className="shop-name">{session.workshop.name}</span>
          {firing && (
            <Link className="lights" to={`/firings/${firing.firing_id}`}>
              Lights out
            </Link>
          )}
        </span>
      </header>
      <div id="content">
        <Boundary of={pathname} instead={(error, again) => <Broken error={error} again={again} />}>
          <Suspense fallback={<Opening />}>
            <Outlet />
          </Suspense>
        </Boundary>
      </div>
    </>
  );
}

/** A place whose script is still on its way. */
function Opening() {
  return <main className="page" aria-busy="true" />;
}

function NoSuchPlace() {
  return (
    <main className="page">
      <h1>Nothing here</h1>
      <p>
        There is no such place. <Link to="/">To the rack</Link>
      </p>
    </main>
  );
}

/** Everything that wants somebody signed in. */
export function SignedIn({ session }: { session: Session }) {
  const { workshop } = session;
  useEffect(() => {
    // Not before the first place had its turn.
    const later = setTimeout(fetchPlaces, 2_000);
    return () => clearTimeout(later);
  }, []);
  const units: Units = {
    temperature: workshop.temperature_unit === "f" ? "f" : "c",
    length: workshop.length_unit === "in" ? "in" : "mm",
  };
  return (
    <UnitsProvider shop={units}>
      <Suspense fallback={null}>
        <Live />
        <JournalAtWork workshop={workshop.id} />
      </Suspense>
      <BrowserRouter>
        <Suspense fallback={null}>
          <Ringing />
        </Suspense>
        <Routes>
          <Route
            path="/firings/:id"
            element={
              <Suspense fallback={null}>
                <FiringPage />
              </Suspense>
            }
          />
          <Route element={<Frame session={session} />}>
            <Route index element={<RackPage />} />
            <Route path="/blades/:id/sheet" element={<BenchSheet />} />
            <Route path="/blades/:id/:tab?" element={<BladePage />} />
            <Route path="/day/:date?" element={<DayPage />} />
            <Route path="/steels" element={<SteelsPage />} />
            <Route path="/steels/compare" element={<ComparePage />} />
            <Route path="/steels/bars" element={<BarsPage />} />
            <Route path="/steels/ladders" element={<LaddersPage />} />
            <Route path="/steels/trials" element={<TrialsPage />} />
            <Route path="/compare" element={<CompareBladesPage />} />
            <Route path="/lessons" element={<LessonsPage />} />
            <Route path="/stations/:id?" element={<StationsPage />} />
            <Route path="/shop" element={<ShopPage session={session} />} />
            <Route path="*" element={<NoSuchPlace />} />
          </Route>
        </Routes>
      </BrowserRouter>
    </UnitsProvider>
  );
}
