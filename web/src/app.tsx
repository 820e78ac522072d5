import { BrowserRouter, Link, NavLink, Outlet, Route, Routes, useLocation } from "react-router";
import { AccountPage, Mark } from "./account/sign-in";
import { ApiError, type Session } from "./api/client";
import { useLive } from "./api/live";
import { useRack, useSession } from "./api/queries";
import { BenchSheet } from "./blade/bench-sheet";
import { BladePage } from "./blade/blade";
import { Boundary, Broken } from "./boundary";
import { CompareBladesPage } from "./compare/compare";
import { FiringPage } from "./firing/firing";
import { useJournal } from "./firing/in-fire";
import { LessonsPage } from "./lessons/lessons";
import type { Units } from "./quantity/parse";
import { UnitsProvider, useUnits } from "./quantity/units";
import { RackPage } from "./rack/rack";
import { ShopPage } from "./shop/shop";
import { StationsPage } from "./stations/stations";
import { BarsPage } from "./steels/bars";
import { ComparePage } from "./steels/compare";
import { SteelsPage } from "./steels/steels";
import { TrialsPage } from "./steels/trials";

function Shell({ session }: { session: Session }) {
  const { units, toggle } = useUnits();
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
        <nav aria-label="Places">
          <NavLink to="/" end>
            Rack
          </NavLink>
          <NavLink to="/steels">Steels</NavLink>
          <NavLink to="/stations">Stations</NavLink>
          <NavLink to="/lessons">Lessons</NavLink>
          <NavLink to="/shop">Shop</NavLink>
        </nav>
        <span className="right">
          <button type="button" className="units num" onClick={toggle} title="Change units (U)">
            {units.temperature === "c" ? "°C mm" : "°F in"}
          </button>
          <span>{session.workshop.name}</span>
          {firing && (
            <Link className="lights" to={`/firings/${firing.firing_id}`}>
              Lights out
            </Link>
          )}
        </span>
      </header>
      <div id="content">
        <Boundary of={pathname} instead={(error, again) => <Broken error={error} again={again} />}>
          <Outlet />
        </Boundary>
      </div>
    </>
  );
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

export function App() {
  const session = useSession();
  useLive(!!session.data);
  useJournal(session.data?.workshop.id);
  if (session.isPending) return null;
  if (!session.data) {
    const status = session.error instanceof ApiError ? session.error.problem.status : 0;
    if (status === 401) return <AccountPage />;
    return (
      <main className="page">
        <h1>No answer</h1>
        <p>{session.error?.message}</p>
      </main>
    );
  }
  const { workshop } = session.data;
  const units: Units = {
    temperature: workshop.temperature_unit === "f" ? "f" : "c",
    length: workshop.length_unit === "in" ? "in" : "mm",
  };
  return (
    <UnitsProvider shop={units}>
      <BrowserRouter>
        <Routes>
          <Route path="/firings/:id" element={<FiringPage />} />
          <Route element={<Shell session={session.data} />}>
            <Route index element={<RackPage />} />
            <Route path="/blades/:id/sheet" element={<BenchSheet />} />
            <Route path="/blades/:id/:tab?" element={<BladePage />} />
            <Route path="/steels" element={<SteelsPage />} />
            <Route path="/steels/compare" element={<ComparePage />} />
            <Route path="/steels/bars" element={<BarsPage />} />
            <Route path="/steels/trials" element={<TrialsPage />} />
            <Route path="/compare" element={<CompareBladesPage />} />
            <Route path="/lessons" element={<LessonsPage />} />
            <Route path="/stations/:id?" element={<StationsPage />} />
            <Route path="/shop" element={<ShopPage session={session.data} />} />
            <Route path="*" element={<NoSuchPlace />} />
          </Route>
        </Routes>
      </BrowserRouter>
    </UnitsProvider>
  );
}
