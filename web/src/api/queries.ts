import { useQuery } from "@tanstack/react-query";
import { ApiError, api, type Session, take, unreachable } from "./client";

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

export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: session,
    // A server that does not answer yet keeps nobody from the fire.
    placeholderData: keptSession,
    retry: false,
    networkMode: "always",
    staleTime: 60_000,
  });

export const useRack = () =>
  useQuery({
    queryKey: ["blades"],
    queryFn: () => take(api.GET("/api/v1/blades")),
    refetchInterval: 20_000,
  });

export const useBlade = (id: string) =>
  useQuery({
    queryKey: ["blade", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}", { params: { path: { id } } })),
  });

export const usePlan = (id: string) =>
  useQuery({
    queryKey: ["plan", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}/plan", { params: { path: { id } } })),
  });

export const useClay = (id: string) =>
  useQuery({
    queryKey: ["clay", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}/clay", { params: { path: { id } } })),
  });

export const useFirings = (id: string) =>
  useQuery({
    queryKey: ["firings", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}/firings", { params: { path: { id } } })),
  });

/** Who quenched lately, the latest first. */
export const useHands = () =>
  useQuery({ queryKey: ["hands"], queryFn: () => take(api.GET("/api/v1/hands")) });

/** What was changed of a blade after its first firing. */
export const useEdits = (id: string) =>
  useQuery({
    queryKey: ["edits", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}/edits", { params: { path: { id } } })),
  });

/** Values of connected testers that wait to be taken or put aside. */
export const useTesterValues = () =>
  useQuery({
    queryKey: ["tester-values"],
    queryFn: () => take(api.GET("/api/v1/testers/waiting")),
  });

export const useReadings = (id: string) =>
  useQuery({
    queryKey: ["readings", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}/readings", { params: { path: { id } } })),
  });

export const useFindings = (id: string) =>
  useQuery({
    queryKey: ["findings", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}/findings", { params: { path: { id } } })),
  });

export const usePhotos = (id: string) =>
  useQuery({
    queryKey: ["photos", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}/photos", { params: { path: { id } } })),
  });

export const useTraces = (id: string) =>
  useQuery({
    queryKey: ["traces", id],
    queryFn: () => take(api.GET("/api/v1/blades/{id}/traces", { params: { path: { id } } })),
  });

export const useSteels = () =>
  useQuery({
    queryKey: ["steels"],
    queryFn: () => take(api.GET("/api/v1/steels")),
    staleTime: 300_000,
  });

export const useBars = () =>
  useQuery({ queryKey: ["bars"], queryFn: () => take(api.GET("/api/v1/bars")) });

export const useTrials = () =>
  useQuery({ queryKey: ["trials"], queryFn: () => take(api.GET("/api/v1/trials")) });

export const useStations = () =>
  useQuery({
    queryKey: ["stations"],
    queryFn: () => take(api.GET("/api/v1/stations")),
    staleTime: 60_000,
  });

/** What connected stations say now; told anew whenever one says something. */
export const useSays = () =>
  useQuery({
    queryKey: ["now"],
    queryFn: () => take(api.GET("/api/v1/stations/now")),
    refetchInterval: 10_000,
  });

export const useCalibrations = () =>
  useQuery({
    queryKey: ["calibrations"],
    queryFn: () => take(api.GET("/api/v1/calibrations")),
    staleTime: 60_000,
  });

export const useLessons = () =>
  useQuery({
    queryKey: ["lessons"],
    queryFn: () => take(api.GET("/api/v1/lessons")),
    // What is still being counted is asked for again.
    refetchInterval: (query) => (query.state.data?.counting ? 1_500 : false),
  });
