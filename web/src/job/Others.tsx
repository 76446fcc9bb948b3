/** Two people on one job: who else has it open, and what happens when both change it. */
import { Button } from "@mui/material";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";

import { call, newKey } from "../api/client";
import type { JobState, Others } from "../api/types";
import { Notice } from "../ui/Notice";
import { type Refused, useEditor } from "../editing/editor";

/** A change of another's shows within two seconds. */
const EVERY_MS = 1500;

/** The others and what they look at; when one of them changed the job, it is fetched again. */
export function useOthers(job: JobState, on: string): string[] {
  const cache = useQueryClient();
  const [page] = useState(newKey);
  const there = useQuery({
    queryKey: ["others", job.id, on],
    queryFn: () => call<Others>("POST", `/api/jobs/${job.id}/here`, { page, on, open: true }),
    refetchInterval: EVERY_MS,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 0,
  });
  const version = there.data?.version;
  useEffect(() => {
    if (version !== undefined && version > job.version) void cache.invalidateQueries({ queryKey: ["job", job.id] });
  }, [cache, job.id, job.version, version]);
  useEffect(() => {
    const leave = () => void call("POST", `/api/jobs/${job.id}/here`, { page, open: false }).catch(() => undefined);
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [job.id, page]);
  return (there.data?.others ?? []).map(
    ({ name, on: step, own }) => `${own ? "you, in another tab" : name}${step ? ` (${step})` : ""}`,
  );
}

/** A change that came second: theirs stands, mine is kept until it is decided. */
export function CameSecond() {
  const { job, refused, settle } = useEditor();
  const navigate = useNavigate();
  const copy = useMutation({
    mutationFn: (mine: Refused) =>
      call<JobState>("POST", `/api/jobs/${job.id}/copy`, { path: mine.path, value: mine.value }, mine),
    onSuccess: (made) => {
      settle("theirs");
      void navigate(`/jobs/${made.id}/layout`);
    },
  });
  if (!refused) return null;
  return (
    <Notice
      title="Changed by two at once"
      action={
        <span className="flex gap-8">
          <Button variant="outlined" onClick={() => settle("theirs")}>
            Keep theirs
          </Button>
          <Button variant="outlined" onClick={() => copy.mutate(refused)} disabled={copy.isPending}>
            Mine as a copy
          </Button>
          {refused.path !== "" && (
            <Button variant="contained" onClick={() => settle("mine")}>
              Mine over theirs
            </Button>
          )}
        </span>
      }
    >
      <p>{refused.why}</p>
      {refused.path === "" && (
        <p>
          It was the whole job as you had it, which would take their change away: do it again on theirs, or keep it as a
          copy.
        </p>
      )}
    </Notice>
  );
}
