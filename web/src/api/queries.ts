/**
 * What is asked of the server: every key with its fetcher, here once. A component takes the options as they are or
 * spreads them beside its own; what changes something says by `queries.….queryKey` what is to be read anew.
 */
import { infiniteQueryOptions, queryOptions, useQuery } from "@tanstack/react-query";
import {
  ApiError,
  api,
  type Layer,
  type Role,
  type Session,
  type Symptom,
  take,
  unreachable,
} from "./client";

const KEPT_SESSION = "vatten.session";

/** Who is signed in. With the server gone it is who was last, so that a firing goes on after a reload. */
async function session(): Promise<Session> {
  try {
    const found = await take(api.GET("/api/v1/session"));
    localStorage.setItem(KEPT_SESSION, JSON.stringify(found));
    return found;
  } catch (error) {
    if (error instanceof ApiError && error.problem.status === 401) {
      localStorage.removeItem(KEPT_SESSION);
    }
    const kept = unreachable(error) ? keptSession() : undefined;
    if (kept) return kept;
    throw error;
  }
}

/** Who was signed in last on this device. */
function keptSession(): Session | undefined {
  const kept = localStorage.getItem(KEPT_SESSION);
  return kept ? (JSON.parse(kept) as Session) : undefined;
}

const path = (id: string) => ({ params: { path: { id } } });

export const queries = {
  session: queryOptions({
    queryKey: ["session"],
    queryFn: session,
    // A server that does not answer yet keeps nobody from the fire.
    placeholderData: keptSession,
    retry: false,
    networkMode: "always",
    staleTime: 60_000,
  }),
  rack: queryOptions({
    queryKey: ["blades"],
    queryFn: () => take(api.GET("/api/v1/blades")),
    refetchInterval: 20_000,
  }),
  /** Finished blades, newest first, fifty at a time. */
  finished: infiniteQueryOptions({
    queryKey: ["blades", "finished"],
    initialPageParam: undefined as string | undefined,
    queryFn: ({ pageParam }) =>
      take(api.GET("/api/v1/blades/finished", { params: { query: { before: pageParam } } })),
    getNextPageParam: (last) => (last.length === 50 ? last.at(-1)?.id : undefined),
  }),
  /** The days to come, laid again from what was pressed. */
  day: queryOptions({
    queryKey: ["day"],
    queryFn: () => take(api.GET("/api/v1/day")),
    refetchInterval: 30_000,
  }),
  blade: (id: string) =>
    queryOptions({
      queryKey: ["blade", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}", path(id))),
    }),
  plan: (id: string) =>
    queryOptions({
      queryKey: ["plan", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}/plan", path(id))),
    }),
  clay: (id: string) =>
    queryOptions({
      queryKey: ["clay", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}/clay", path(id))),
    }),
  firings: (id: string) =>
    queryOptions({
      queryKey: ["firings", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}/firings", path(id))),
    }),
  /** What colours of glowing steel mean, and the eyes of the shop; with a blade, what signs mean for its steel. */
  eyes: (blade?: string) =>
    queryOptions({
      queryKey: ["eyes", blade ?? ""],
      queryFn: () => take(api.GET("/api/v1/eyes", { params: { query: { blade } } })),
    }),
  /** Who quenched lately, the latest first. */
  operators: queryOptions({
    queryKey: ["operators"],
    queryFn: () => take(api.GET("/api/v1/operators")),
  }),
  /** What was changed of a blade after its first firing. */
  edits: (id: string) =>
    queryOptions({
      queryKey: ["edits", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}/edits", path(id))),
    }),
  readings: (id: string) =>
    queryOptions({
      queryKey: ["readings", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}/readings", path(id))),
    }),
  findings: (id: string) =>
    queryOptions({
      queryKey: ["findings", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}/findings", path(id))),
    }),
  photos: (id: string) =>
    queryOptions({
      queryKey: ["photos", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}/photos", path(id))),
    }),
  traces: (id: string) =>
    queryOptions({
      queryKey: ["traces", id],
      queryFn: () => take(api.GET("/api/v1/blades/{id}/traces", path(id))),
    }),
  /** What was pressed in a firing of a blade. */
  events: (blade: string, firing: string) =>
    queryOptions({
      queryKey: ["story", blade, firing],
      queryFn: () => take(api.GET("/api/v1/firings/{id}/events", path(firing))),
    }),
  diagnosis: (blade: string, symptom: Symptom) =>
    queryOptions({
      queryKey: ["diagnosis", blade, symptom],
      queryFn: () =>
        take(
          api.GET("/api/v1/blades/{id}/diagnosis", {
            params: { path: { id: blade }, query: { symptom } },
          }),
        ),
    }),
  methods: (blade: string, version: number) =>
    queryOptions({
      queryKey: ["methods", blade, version],
      queryFn: ({ signal }) =>
        take(api.GET("/api/v1/blades/{id}/methods", { ...path(blade), signal })),
    }),
  methodVersions: (id: string, version: number) =>
    queryOptions({
      queryKey: ["method-versions", id, version],
      queryFn: () => take(api.GET("/api/v1/methods/{id}/versions", path(id))),
    }),
  /** Fired blades whose marks begin so. */
  marked: (begins: string) =>
    queryOptions({
      queryKey: ["marked", begins],
      queryFn: () => take(api.GET("/api/v1/blades/marked", { params: { query: { begins } } })),
    }),
  /** Blades side by side, by their ids with commas between. */
  compare: (blades: string) =>
    queryOptions({
      queryKey: ["compare", blades],
      queryFn: ({ signal }) =>
        take(api.GET("/api/v1/compare", { params: { query: { blades } }, signal })),
    }),
  steels: queryOptions({
    queryKey: ["steels"],
    queryFn: () => take(api.GET("/api/v1/steels")),
    staleTime: 300_000,
  }),
  /** Steels that a name fits, of any standard. */
  foundSteels: (name: string) =>
    queryOptions({
      queryKey: ["steels", "found", name],
      queryFn: () => take(api.GET("/api/v1/steels/search", { params: { query: { name } } })),
    }),
  /** The shop's own results on a steel. */
  steelPoints: (key: string) =>
    queryOptions({
      queryKey: ["points", key],
      queryFn: () => take(api.GET("/api/v1/steels/{key}/points", { params: { path: { key } } })),
    }),
  /** Where the layers of a bar meet. */
  meeting: (layers: Layer[]) =>
    queryOptions({
      queryKey: ["meet", JSON.stringify(layers)],
      retry: false,
      queryFn: () => take(api.POST("/api/v1/steels/meet", { body: { layers } })),
    }),
  bars: queryOptions({ queryKey: ["bars"], queryFn: () => take(api.GET("/api/v1/bars")) }),
  trials: queryOptions({ queryKey: ["trials"], queryFn: () => take(api.GET("/api/v1/trials")) }),
  /** What temper colours mean on the steel of a blade that is held so long. */
  temperColours: (blade: string, hold_s: number) =>
    queryOptions({
      queryKey: ["temper-colours", blade, hold_s],
      queryFn: () =>
        take(api.GET("/api/v1/temper-colours", { params: { query: { blade, hold_s } } })),
      staleTime: 60_000,
    }),
  ladders: queryOptions({
    queryKey: ["ladders"],
    queryFn: () => take(api.GET("/api/v1/ladders")),
  }),
  /** One ladder, with what is to be expected of its rungs. */
  ladder: (id: string) =>
    queryOptions({
      queryKey: ["ladder", id],
      queryFn: () => take(api.GET("/api/v1/ladders/{id}", { params: { path: { id } } })),
    }),
  stations: queryOptions({
    queryKey: ["stations"],
    queryFn: () => take(api.GET("/api/v1/stations")),
    staleTime: 60_000,
  }),
  /** What connected stations say now; told anew whenever one says something. */
  says: queryOptions({
    queryKey: ["now"],
    queryFn: () => take(api.GET("/api/v1/stations/now")),
    refetchInterval: 10_000,
  }),
  /** How a fire took a load that went in at a moment, ms since 1970. */
  loaded: (station: string, loadedAt: number) =>
    queryOptions({
      queryKey: ["now", "loaded", station, loadedAt],
      queryFn: () =>
        take(
          api.GET("/api/v1/stations/{id}/loaded", {
            params: { path: { id: station }, query: { from_ms: Math.round(loadedAt) } },
          }),
        ),
      refetchInterval: 3_000,
    }),
  /** Values of connected testers that wait to be taken or put aside. */
  testerValues: queryOptions({
    queryKey: ["tester-values"],
    queryFn: () => take(api.GET("/api/v1/testers/waiting")),
  }),
  calibrations: queryOptions({
    queryKey: ["calibrations"],
    queryFn: () => take(api.GET("/api/v1/calibrations")),
    staleTime: 60_000,
  }),
  lessons: queryOptions({
    queryKey: ["lessons"],
    queryFn: () => take(api.GET("/api/v1/lessons")),
    // What is still being counted is asked for again.
    refetchInterval: (query) => (query.state.data?.counting ? 1_500 : false),
  }),
  tokens: queryOptions({
    queryKey: ["tokens"],
    queryFn: () => take(api.GET("/api/v1/tokens")),
  }),
};

/** First parts of the keys of what is computed from all records of a shop. */
export const COMPUTED = [
  "predict",
  "methods",
  "help",
  "points",
  "compare",
  "lessons",
  "ladder",
] as const;

export const useSession = () => useQuery(queries.session);

/** The roles of a shop, the one that may least first. */
const RANK = ["reader", "helper", "smith", "owner"];

/** Whether somebody may what takes at least this. */
export const may = (role: Role, least: Role) => RANK.indexOf(role) >= RANK.indexOf(least);

/** Whether whoever is signed in may what takes at least this; the server has the last word. */
export function useMay(least: Role): boolean {
  const role = useSession().data?.person.role;
  return !role || may(role, least);
}
export const useRack = () => useQuery(queries.rack);
export const useDay = () => useQuery(queries.day);
export const useBlade = (id: string) => useQuery(queries.blade(id));
export const usePlan = (id: string) => useQuery(queries.plan(id));
export const useClay = (id: string) => useQuery(queries.clay(id));
export const useFirings = (id: string) => useQuery(queries.firings(id));
export const useOperators = () => useQuery(queries.operators);
export const useEdits = (id: string) => useQuery(queries.edits(id));
export const useTesterValues = () => useQuery(queries.testerValues);
export const useReadings = (id: string) => useQuery(queries.readings(id));
export const useFindings = (id: string) => useQuery(queries.findings(id));
export const usePhotos = (id: string) => useQuery(queries.photos(id));
export const useTraces = (id: string) => useQuery(queries.traces(id));
export const useSteels = () => useQuery(queries.steels);
export const useBars = () => useQuery(queries.bars);
export const useTrials = () => useQuery(queries.trials);
export const useStations = () => useQuery(queries.stations);
export const useSays = () => useQuery(queries.says);
export const useCalibrations = () => useQuery(queries.calibrations);
export const useLessons = () => useQuery(queries.lessons);
