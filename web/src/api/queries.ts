/** What the screens read and change, with one cache. */
import { useEffect, useRef } from "react";
import {
  keepPreviousData,
  QueryClient,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";

import { call, keepToken, Problem } from "./client";
import type {
  Catalogue,
  InViseResult,
  JobList,
  JobState,
  OutlinesFound,
  Person,
  Pieces,
  OwnTried,
  Played,
  ProgramShown,
  RunResult,
  SetupSheet,
  WorthTable,
  Room,
  Row,
  RunState,
  SessionState,
  SetupScheme,
  ShopList,
  Steps,
  UploadState,
  Verdicts,
  Vise,
  HeldSection,
  Workpiece,
} from "./types";

const again = (count: number, error: Error): boolean => error instanceof Problem && error.passing && count < 600;

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: { retry: again, retryDelay: 2000, staleTime: 5000, networkMode: "always" },
    mutations: { retry: again, retryDelay: 2000, networkMode: "always" },
  },
});

function keepSession(state: SessionState): SessionState {
  keepToken(state.csrf_token);
  return state;
}

export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => keepSession(await call<SessionState>("GET", "/api/session")),
    staleTime: Infinity,
    // While the service starts for the first time its accounts are still being made: look again by itself.
    refetchInterval: (query) => (query.state.data?.needs_admin ? 1500 : false),
  });
}

export function useSignIn() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async (given: { sign_in: string; password: string }) =>
      keepSession(await call<SessionState>("POST", "/api/session", given)),
    onSuccess: (state) => cache.setQueryData(["session"], state),
  });
}

export function useSignOut() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: async () => keepSession(await call<SessionState>("DELETE", "/api/session")),
    onSuccess: (state) => {
      cache.setQueryData(["session"], state);
      // Nothing of this person stays behind; the session itself is being watched and must not be taken away.
      cache.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
    },
  });
}

export function usePreferences() {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: "preferences" }, // one after the other: of two answers on their way the older one must not come last
    mutationFn: async (given: { units?: string; theme?: string }) =>
      keepSession(await call<SessionState>("PATCH", "/api/session/preferences", given)),
    onSuccess: (state) => cache.setQueryData(["session"], state),
  });
}

const PAGE = 50;
export type JobOrder = "changed" | "name" | "due" | "quantity";

/** The jobs, page by page; or those deleted that can still be brought back. */
export function useJobs(deleted: boolean, search = "", order: JobOrder = "changed") {
  return useInfiniteQuery({
    queryKey: ["jobs", deleted, search, order],
    queryFn: ({ pageParam }) => {
      const asked = { limit: PAGE, offset: pageParam, deleted, search, order };
      const query = new URLSearchParams(Object.entries(asked).map(([key, value]) => [key, String(value)]));
      return call<JobList>("GET", `/api/jobs?${query.toString()}`);
    },
    initialPageParam: 0,
    getNextPageParam: (last, pages) => (pages.length * PAGE < last.total ? pages.length * PAGE : undefined),
    placeholderData: keepPreviousData,
    refetchInterval: (query) =>
      !deleted && query.state.data?.pages.some((page) => page.jobs.some((job) => job.planning)) ? 2000 : false,
  });
}

/** A deleted job stands again. */
export function useBringBack() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => call<JobState>("POST", `/api/jobs/${id}/bring-back`),
    onSuccess: (job) => keepJob(cache, job),
  });
}

export function useOwnPassword() {
  return useMutation({
    mutationFn: async (given: { present: string; fresh: string }) =>
      keepSession(await call<SessionState>("PUT", "/api/session/password", given)),
  });
}

export function useCatalogue() {
  return useQuery({
    queryKey: ["catalogue"],
    queryFn: () => call<Catalogue>("GET", "/api/catalogue"),
    staleTime: Infinity,
  });
}

export const active = (state: RunState | null | undefined): boolean =>
  state?.run.status === "queued" || state?.run.status === "running";

export function useJob(id: string) {
  return useQuery({
    queryKey: ["job", id],
    queryFn: () => call<JobState>("GET", `/api/jobs/${id}`),
    refetchInterval: (query) => (active(query.state.data?.latest) ? 500 : false),
  });
}

/** What the pieces of a placing come to is looked at once nobody has moved anything for a moment, by a worker: the
 * count was told before. Asked for once a version; what cannot be made stays as it is. */
export function usePiecesLater(job: JobState, wanted: boolean) {
  const cache = useQueryClient();
  const { id, version } = job;
  const asked = useRef(0);
  const missing = job.latest?.result?.setups.some((item) => !item.making && item.result.designs.length > 0) ?? false;
  const later = wanted && missing && job.latest?.run.current === true && !active(job.latest);
  useEffect(() => {
    if (!later) return;
    let looks = 0;
    const timer = window.setInterval(() => {
      looks += 1;
      if (asked.current !== version) {
        asked.current = version;
        void call("POST", `/api/jobs/${id}/pieces`).catch(() => undefined);
      } else if (looks < 20) void cache.invalidateQueries({ queryKey: ["job", id] });
    }, 1500);
    return () => window.clearInterval(timer);
  }, [cache, id, version, later]);
}

/** Changes of one job go one after the other, each at the version the one before left. */
export function useJobChange(id: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: (given: { path: string; value: unknown }) => {
      const version = cache.getQueryData<JobState>(["job", id])?.version ?? 0;
      return call<JobState>("PATCH", `/api/jobs/${id}/fields`, { version, ...given }, given);
    },
    onSuccess: (job) => keepJob(cache, job),
    onError: (error) => {
      if (error instanceof Problem && error.status === 409) void cache.invalidateQueries({ queryKey: ["job", id] });
    },
  });
}

/** What this person can take back, and do again, on a job: known to the service, so that it is there after a reload. */
export function useSteps(id: string, version: number) {
  return useQuery({
    queryKey: ["steps", id, version],
    queryFn: () => call<Steps>("GET", `/api/jobs/${id}/steps`),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}

/** Takes back, or does again; behind the changes that are still on their way. ``step``: only if that comes next. */
export function useJobStep(id: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: (given: { way: "undo" | "redo"; step: string | null }) =>
      call<JobState>("POST", `/api/jobs/${id}/${given.way}`, { step: given.step }, given),
    onSuccess: (job) => keepJob(cache, job),
    onError: () => void cache.invalidateQueries({ queryKey: ["job", id] }),
  });
}

/** The service reads no more of a file: said before minutes of sending. */
const MOST_MB = 25;

function formOf(file: File): FormData {
  if (file.size > MOST_MB * 1e6)
    throw new Problem(
      413,
      "File not used",
      `${file.name} has ${(file.size / 1e6).toFixed(0)} MB; at most ${String(MOST_MB)} MB are read. Export the part alone.`,
    );
  const form = new FormData();
  form.set("file", file);
  return form;
}

/** What is in a drawing. Nothing is stored: the person looks, and takes what is right. */
export function useDrawing() {
  return useMutation({
    mutationFn: ({
      file,
      units,
      layers,
      join,
    }: {
      file: File;
      units?: string | undefined;
      layers?: string[] | undefined;
      join?: string | undefined;
    }) => {
      const form = formOf(file);
      if (units) form.set("units", units);
      if (layers) form.set("layers", JSON.stringify(layers));
      if (join) form.set("join", join);
      return call<OutlinesFound>("POST", "/api/drawings", form);
    },
  });
}

/** The least grip in a vise: asked beside the plan, nothing is stored. */
export function useGrip(
  job: string,
  version: number,
  setup: number,
  vise: Vise | undefined,
  torque: string | number,
  toothed: boolean,
  depth: string | number,
) {
  return useQuery({
    queryKey: ["grip", job, version, setup, vise, torque, toothed, depth],
    queryFn: () =>
      call<InViseResult>("POST", `/api/jobs/${job}/vise`, { setup, vise, torque_nm: torque, toothed, depth_mm: depth }),
    enabled: vise !== undefined,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}

export function useSolidUpload() {
  return useMutation({
    mutationFn: async (given: { file: File }) => call<UploadState>("POST", "/api/solids", formOf(given.file), given),
  });
}

export function useSolid(id: string | null) {
  return useQuery({
    queryKey: ["solid", id],
    queryFn: () => call<UploadState>("GET", `/api/solids/${id ?? ""}`),
    enabled: id !== null,
    refetchInterval: (query) =>
      query.state.data && ["queued", "running"].includes(query.state.data.status) ? 400 : false,
  });
}

export function usePasteCuts(id: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: (given: { part: number; op: number; text: string; inch: boolean }) =>
      call<JobState>(
        "POST",
        `/api/jobs/${id}/cuts`,
        { ...given, version: cache.getQueryData<JobState>(["job", id])?.version ?? 0 },
        given,
      ),
    onSuccess: (job) => keepJob(cache, job),
  });
}

export function useSetups(id: string, part: number, version: number, wanted: boolean) {
  return useQuery({
    queryKey: ["setups", id, part, version],
    queryFn: () => call<{ schemes: SetupScheme[] }>("GET", `/api/jobs/${id}/parts/${String(part)}/setups`),
    enabled: wanted,
    placeholderData: (before) => before,
  });
}

/** A part from blank to finished, as the job stands. */
export function useWorkpiece(id: string, part: number, version: number) {
  return useQuery({
    queryKey: ["workpiece", id, part, version],
    queryFn: () => call<Workpiece>("GET", `/api/jobs/${id}/parts/${String(part)}/workpiece`),
    placeholderData: (before) => before,
    staleTime: Infinity,
  });
}

/** The workpiece as an op is held: cut where it is clamped, and what is touched. */
export function useHeld(id: string, part: number, op: number, version: number, asked = true) {
  return useQuery({
    queryKey: ["held", id, part, op, version],
    queryFn: () => call<HeldSection>("GET", `/api/jobs/${id}/parts/${String(part)}/ops/${String(op)}/held`),
    enabled: asked,
    retry: false,
    staleTime: Infinity,
  });
}

export function useShop() {
  return useQuery({
    queryKey: ["shop"],
    queryFn: async () => {
      let found = await call<ShopList>("GET", "/api/shop?limit=500");
      while (found.entries.length < found.total) {
        const more = await call<ShopList>("GET", `/api/shop?limit=500&offset=${String(found.entries.length)}`);
        if (more.entries.length === 0) break;
        found = { ...found, entries: [...found.entries, ...more.entries] };
      }
      return found;
    },
  });
}

/** After anything in the shop changed, what can be picked has changed too. */
export function keepShop(cache: QueryClient): void {
  void cache.invalidateQueries({ queryKey: ["shop"] });
  void cache.invalidateQueries({ queryKey: ["catalogue"] });
}

export function keepJob(cache: QueryClient, job: JobState): void {
  cache.setQueryData(["job", job.id], job);
  void cache.invalidateQueries({ queryKey: ["jobs"] });
}

export function usePlan(id: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: () => call<RunState>("POST", `/api/jobs/${id}/runs`),
    onSettled: () => cache.invalidateQueries({ queryKey: ["job", id] }),
  });
}

export function useCancel(id: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (run: string) => call<RunState>("DELETE", `/api/runs/${run}`),
    onSettled: () => cache.invalidateQueries({ queryKey: ["job", id] }),
  });
}

export function usePeople() {
  return useQuery({ queryKey: ["people"], queryFn: () => call<{ people: Person[] }>("GET", "/api/people?limit=200") });
}

/** What is asked, as the end of an address; nothing is left out but what is null. */
const query = (asked: Record<string, string | number | null>) =>
  new URLSearchParams(
    Object.entries(asked).flatMap(([name, value]) => (value === null ? [] : [[name, String(value)]])),
  ).toString();

/** Where a station's datum corner may be while the others stay. */
export const fetchRoom = (
  id: string,
  version: number,
  asked: { setup: number; station: number | null; turn: number; face: number; kind: number },
) =>
  queryClient.fetchQuery({
    queryKey: ["room", id, version, asked],
    queryFn: () => call<Room>("GET", `/api/jobs/${id}/layout/room?${query(asked)}`),
    staleTime: Infinity,
    gcTime: 60_000,
  });

export const fetchRow = (id: string, version: number, setup: number, station: number, towards: string, most = 200) =>
  queryClient.fetchQuery({
    queryKey: ["row", id, version, setup, station, towards, most],
    queryFn: () => call<Row>("GET", `/api/jobs/${id}/layout/row?${query({ setup, station, towards, most })}`),
  });

/** The verdict on every feature at every station on screen; of one station and feature everything that adds up. */
export function useVerdicts(job: JobState, setup: number, station: number | null, feature: string | null) {
  const params = new URLSearchParams({
    setup: String(setup),
    ...(station !== null && feature !== null ? { station: String(station), feature } : {}),
  });
  return useQuery({
    queryKey: ["verdicts", job.id, job.version, setup, job.latest?.run.id, station, feature],
    queryFn: () => call<Verdicts>("GET", `/api/jobs/${job.id}/locate?${params.toString()}`),
    // A form that cannot be planned yet has stations nowhere: there is nothing to ask.
    enabled: (job.latest?.run.current ?? false) && Boolean(job.latest?.result) && Boolean(job.setups[setup - 1]?.plate),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}

/** What must be made for a setup as it is laid out. */
export function usePieces(job: JobState, setup: number) {
  return useQuery({
    queryKey: ["pieces", job.id, job.version, setup, job.latest?.run.id, job.latest?.run.status],
    queryFn: () => call<Pieces>("GET", `/api/jobs/${job.id}/make?setup=${String(setup)}`),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}

export type Order = "by tool" | "by station";

/** What is loaded this time, where that is not all of it: numbers as the service takes them. */
export interface ProgramLoad {
  first?: string;
  missing?: string;
  tools?: string;
  instead?: string;
}

/** The address of a setup's program, or of something of it. */
export const programAt = (id: string, what: string, setup: number, order: Order | null, load: ProgramLoad): string => {
  const asked = new URLSearchParams({ setup: String(setup), ...(order ? { order } : {}) });
  for (const [name, value] of Object.entries(load)) if (value) asked.set(name, value as string);
  return `/api/jobs/${id}/program${what}${what.includes("?") ? "&" : "?"}${asked.toString()}`;
};

const programQuery = (job: JobState, setup: number, order: Order | null, load: ProgramLoad) => ({
  queryKey: ["program", job.id, job.version, setup, order, load, job.latest?.run.id, job.latest?.run.status],
  queryFn: () => call<ProgramShown>("GET", programAt(job.id, "", setup, order, load)),
  staleTime: Infinity,
});

/** A setup's zeros, and its program where every op it holds has one. */
export function useProgram(job: JobState, setup: number, order: Order | null, load: ProgramLoad) {
  return useQuery({ ...programQuery(job, setup, order, load), placeholderData: keepPreviousData });
}

/** How the program of a setup came out, where it was tried since the page was opened. */
export function useProgramTried(job: JobState, setup: number) {
  return useQuery({ ...programQuery(job, setup, null, {}), enabled: false }).data?.step;
}

/** How a setup's program goes, place by place; fetched when it is ``wanted``. */
export function usePlayed(job: JobState, setup: number, order: Order | null, load: ProgramLoad, wanted: boolean) {
  const run = job.latest?.run;
  return useQuery({
    queryKey: ["program", job.id, "moves", job.version, setup, order, load, run?.id, run?.status],
    queryFn: () => call<Played>("GET", programAt(job.id, "/moves", setup, order, load)),
    enabled: wanted,
    staleTime: Infinity,
    gcTime: 60_000,
  });
}

/** The setter's sheet of a setup. */
export function useSheet(job: JobState, setup: number) {
  const run = job.latest?.run;
  return useQuery({
    queryKey: ["sheet", job.id, job.version, setup, run?.id, run?.status],
    queryFn: () => call<SetupSheet>("GET", `/api/jobs/${job.id}/sheet?setup=${String(setup)}`),
    retry: false,
  });
}

/** How a job runs, worked out again whenever what it depends on changed. */
export function useRun(job: JobState) {
  const run = job.latest?.run;
  return useQuery({
    queryKey: ["run", job.id, job.version, run?.id, run?.status, job.latest?.programmed_s],
    queryFn: () => call<RunResult>("GET", `/api/jobs/${job.id}/running`),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** What a minute is worth; after the run itself, which it waits for. */
export function useWorth(job: JobState, wanted: boolean) {
  const run = job.latest?.run;
  return useQuery({
    queryKey: ["run", "worth", job.id, job.version, run?.id, run?.status, job.latest?.programmed_s],
    queryFn: () => call<WorthTable>("GET", `/api/jobs/${job.id}/running/worth`),
    enabled: wanted,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** Runs somebody's own program for a whole setup; nothing of it is kept. */
export function useOwnProgram(id: string, setup: number) {
  return useMutation({
    mutationFn: async (file: File) => {
      const form = new FormData();
      form.append("file", file);
      const found = await call<OwnTried>("POST", `/api/jobs/${id}/program/own?setup=${String(setup)}`, form);
      return { ...found, name: file.name };
    },
  });
}

/** Loads an op's program, or takes it off. */
export function useOpProgram(id: string) {
  const cache = useQueryClient();
  const onSuccess = () => cache.invalidateQueries({ queryKey: ["program", id] });
  const at = (part: string, op: number) =>
    `/api/jobs/${id}/program/ops?${new URLSearchParams({ part, op: String(op) }).toString()}`;
  const load = useMutation({
    mutationFn: (given: { part: string; op: number; file: File }) => {
      const form = new FormData();
      form.append("file", given.file);
      return call("POST", at(given.part, given.op), form, given);
    },
    onSuccess,
  });
  const forget = useMutation({
    mutationFn: (given: { part: string; op: number }) => call("DELETE", at(given.part, given.op), undefined, given),
    onSuccess,
  });
  return { load, forget };
}

export interface MeasuredGiven {
  setup?: number;
  text?: string;
  places?: { station: number; x_mm: string | number; y_mm: string | number; z_mm?: string | number | null }[];
  units?: string;
  within_mm?: string | number;
}

/** Measured places of the real fixture, typed or as CSV; neither: those known are forgotten. */
export function useMeasured(id: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: (given: MeasuredGiven) =>
      call<JobState>(
        "POST",
        `/api/jobs/${id}/measured`,
        { ...given, version: cache.getQueryData<JobState>(["job", id])?.version ?? 0 },
        given,
      ),
    onSuccess: (job) => keepJob(cache, job),
  });
}

/** Takes out a part, or an op of a part; whatever names others by their place is kept right. */
export function useRemoval(id: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: (given: { part: number; op?: number }) =>
      call<JobState>(
        "POST",
        `/api/jobs/${id}/removals`,
        { ...given, version: cache.getQueryData<JobState>(["job", id])?.version ?? 0 },
        given,
      ),
    onSuccess: (job) => keepJob(cache, job),
  });
}

/** Stations out of a table of positions: the layout is theirs then. */
export function useStationTable(id: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: (given: { setup: number; text: string; units: string }) =>
      call<JobState>(
        "POST",
        `/api/jobs/${id}/layout/table`,
        { ...given, version: cache.getQueryData<JobState>(["job", id])?.version ?? 0 },
        given,
      ),
    onSuccess: (job) => keepJob(cache, job),
  });
}

/** A change of the route that the service makes whole: which setup holds an op, its form, a way of clamping, a scheme. */
export function useRouteChange(id: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `job-${id}` },
    mutationFn: (given: { to: string; body?: object }) =>
      call<JobState>(
        "POST",
        `/api/jobs/${id}/${given.to}`,
        { ...given.body, version: cache.getQueryData<JobState>(["job", id])?.version ?? 0 },
        given,
      ),
    onSuccess: (job) => keepJob(cache, job),
  });
}
