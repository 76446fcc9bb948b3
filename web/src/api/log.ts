/** The log of a job: what happened, what it says, what was learned. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { call } from "./client";
import { keepJob } from "./queries";
import type { JobState, Schemas } from "./types";

export type JobLog = Schemas["JobLog"];
export type LogSaid = JobLog["said"];
export type Learned = LogSaid["learned"][number];
export type LogKept = Schemas["LogKept"];
export type LogEntry = Schemas["LogSent"]["entries"][number];
type LogPage = Schemas["LogPage"];
type Effects = Schemas["Effects"];

export function useLogSaid(job: JobState) {
  const run = job.latest?.run;
  return useQuery({
    queryKey: ["log", job.id, "said", job.version, run?.id, run?.status],
    queryFn: () => call<JobLog>("GET", `/api/jobs/${job.id}/log/said`),
    placeholderData: keepPreviousData,
    refetchInterval: 15_000,
    retry: false,
  });
}

export function useLogPage(id: string, most: number) {
  return useQuery({
    queryKey: ["log", id, "page", most],
    queryFn: () => call<LogPage>("GET", `/api/jobs/${id}/log?most=${String(most)}`),
    placeholderData: keepPreviousData,
    refetchInterval: 15_000,
  });
}

export function useEffects(id: string, learned: string, wanted: boolean) {
  return useQuery({
    queryKey: ["log", id, "effects", learned],
    queryFn: () => call<Effects>("GET", `/api/jobs/${id}/log/effects?learned=${encodeURIComponent(learned)}`),
    enabled: wanted,
    staleTime: 30_000,
  });
}

export function useLogFile(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (file: File) => {
      const form = new FormData();
      form.append("file", file);
      return call<LogKept>("POST", `/api/jobs/${id}/log/file`, form);
    },
    onSettled: () => cache.invalidateQueries({ queryKey: ["log", id] }),
  });
}

export function useTakeOver(job: JobState) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (given: { learned: string; version: number }) =>
      call<JobState>("POST", `/api/jobs/${job.id}/log/adopted`, given, given),
    onSuccess: (state) => keepJob(cache, state),
    onSettled: () => cache.invalidateQueries({ queryKey: ["log", job.id] }),
  });
}

export function useTakeBack(job: JobState) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (given: { id: string; version: number }) =>
      call<JobState>(
        "DELETE",
        `/api/jobs/${job.id}/log/adopted?${new URLSearchParams({ id: given.id, version: String(given.version) }).toString()}`,
        undefined,
        given,
      ),
    onSuccess: (state) => keepJob(cache, state),
    onSettled: () => cache.invalidateQueries({ queryKey: ["log", job.id] }),
  });
}
