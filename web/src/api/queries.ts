import { useQuery } from "@tanstack/react-query";
import { api, take } from "./client";

export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: () => take(api.GET("/api/v1/session")),
    retry: false,
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

export const useLessons = () =>
  useQuery({ queryKey: ["lessons"], queryFn: () => take(api.GET("/api/v1/lessons")) });
