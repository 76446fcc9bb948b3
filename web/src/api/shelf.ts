/** Fixtures that exist, and what is pressing today. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { call } from "./client";
import { keepJob } from "./queries";
import type { JobState, Schemas } from "./types";

export type Fixture = Schemas["FixtureShown"];
type Shelf = Schemas["Shelf"];
type Today = Schemas["Today"];
export type FixtureChange = Schemas["FixtureChange"];

export const useShelf = () => useQuery({ queryKey: ["shelf"], queryFn: () => call<Shelf>("GET", "/api/shelf") });

export const useFixture = (number: string) =>
  useQuery({
    queryKey: ["shelf", number],
    queryFn: () => call<Fixture>("GET", `/api/shelf/${encodeURIComponent(number)}`),
    enabled: number !== "",
    retry: false,
  });

export const useToday = () =>
  useQuery({ queryKey: ["today"], queryFn: () => call<Today>("GET", "/api/today"), refetchInterval: 60_000 });

export function useMakeFixture() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (given: { job_id: string; setup: number }) => call<Fixture>("POST", "/api/shelf", given, given),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["shelf"] }),
  });
}

export function useChangeFixture(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (given: FixtureChange) => call<Fixture>("PATCH", `/api/shelf/${id}`, given, given),
    onSettled: () => cache.invalidateQueries({ queryKey: ["shelf"] }),
  });
}

export function useKeepPlaces(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () => call<Fixture>("POST", `/api/shelf/${id}/places`),
    onSettled: () => cache.invalidateQueries({ queryKey: ["shelf"] }),
  });
}

/** Plan the fixture's job with the places that were measured on it. */
export function useUsePlaces(fixture: Fixture) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async () => {
      const job = await call<JobState>("GET", `/api/jobs/${fixture.job_id ?? ""}`);
      return call<JobState>("POST", `/api/shelf/${fixture.id}/use`, { version: job.version });
    },
    onSuccess: (job) => keepJob(cache, job),
  });
}
