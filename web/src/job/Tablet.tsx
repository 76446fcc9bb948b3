/** The setter's page at the machine: one thing a screen, large, and what is pressed is written down even without a network. */
import { useEffect, useState } from "react";
import { useParams, useSearchParams } from "react-router";

import { useJob, useSheet } from "../api/queries";
import { useLogPage } from "../api/log";
import { useOutbox, writeDown, type Fresh } from "../api/outbox";
import type { JobState, SetupSheet } from "../api/types";
import { SheetFace } from "../drawing/SheetFace";
import { Notice, ProblemNotice } from "../ui/Notice";
import { Said } from "../ui/Said";
import { Wedge } from "../ui/Wedge";
import { capital, clock, useUnits } from "../ui/units";

const REASONS = ["chips in the way", "part not seated", "coolant low", "tool broke", "waits for blanks"];

export function Tablet() {
  const { id = "" } = useParams();
  const [where] = useSearchParams();
  const job = useJob(id);
  const setup = Number(where.get("setup") ?? "1") || 1;
  if (!job.data) return <main className="tablet">{job.error && <ProblemNotice error={job.error} />}</main>;
  return <Setup key={setup} job={job.data} setup={setup} />;
}

function Setup({ job, setup }: { job: JobState; setup: number }) {
  const { data, error } = useSheet(job, setup);
  return (
    <main className="tablet">
      {error && <ProblemNotice error={error} />}
      {data && <Round key={data.version} sheet={data} job={job.id} setup={setup} />}
    </main>
  );
}

/** Seconds since a moment, once a second. */
function useSince(start: number): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => setNow(Date.now()), 1000);
    return () => window.clearInterval(timer);
  }, []);
  return Math.max(0, (now - start) / 1000);
}

interface RoundAt {
  face: number;
  running: boolean;
  /** Seconds of the cycle, once it ended. */
  ended: number | null;
  /** When this part of the round began. */
  began: number;
}

const fresh = (): RoundAt => ({ face: 0, running: false, ended: null, began: Date.now() });

/** How far the round is, kept in the browser: a page that is loaded anew goes on where it was. */
function useRound(name: string): [RoundAt, (next: RoundAt) => void] {
  const key = `wedgecraft-round ${name}`;
  const [round, setRound] = useState<RoundAt>(() => {
    try {
      return { ...fresh(), ...(JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<RoundAt>) };
    } catch {
      return fresh();
    }
  });
  const keep = (next: RoundAt) => {
    localStorage.setItem(key, JSON.stringify(next));
    setRound(next);
  };
  return [round, keep];
}

/** Load face by face, let it run, say what came out; then again. */
function Round({ sheet, job, setup }: { sheet: SetupSheet; job: string; setup: number }) {
  const [round, setRound] = useRound(`${job} ${String(setup)} ${sheet.version}`);
  const { face, running, ended, began } = round;
  const [off, setOff] = useState(false);
  const since = useSince(began);
  const parts = sheet.faces.reduce(
    (sum, each) => sum + each.stations.reduce((count, station) => count + station.parts.length, 0),
    0,
  );
  const loaded = () => {
    if (face + 1 < sheet.faces.length) return setRound({ ...round, face: face + 1 });
    writeDown(job, {
      kind: "load",
      setup,
      by: "tablet",
      note: "",
      seconds: Math.max(1, (Date.now() - began) / 1000),
      parts,
    });
    setRound({ face: 0, running: true, ended: null, began: Date.now() });
  };
  const done = (scrapped: number[]) => {
    const good = Math.max(0, parts - scrapped.length);
    writeDown(job, { kind: "cycle", setup, by: "tablet", note: "", seconds: Math.max(1, ended ?? 0), good, scrapped });
    setRound(fresh());
  };
  return (
    <>
      <header>
        <Wedge />
        <b>{sheet.job}</b>
        <span>setup {sheet.setup}</span>
        <span className="mono to-end">
          {running && ended === null && sheet.seconds != null
            ? `machine calls in ${clock(Math.max(0, sheet.seconds - since))}`
            : clock(since)}
        </span>
      </header>
      {!sheet.current && <Notice title="Out of date">The job was changed since it was planned.</Notice>}
      {(sheet.exceeded ?? []).length > 0 && (
        <Notice title="Do not run it" kind="over">
          Beyond its limit: <Said text={(sheet.exceeded ?? []).join(", ")} />.
        </Notice>
      )}
      {off ? (
        <SomethingOff
          stations={sheet.faces.flatMap((each) => each.stations.map((station) => station.number))}
          close={() => setOff(false)}
          write={(entry) => {
            writeDown(job, { ...entry, setup, by: "tablet" } as unknown as Fresh);
            setOff(false);
          }}
        />
      ) : ended !== null ? (
        <CameOut sheet={sheet} done={done} />
      ) : running ? (
        <Runs
          since={since}
          planned={sheet.seconds ?? null}
          end={() => setRound({ ...round, ended: (Date.now() - began) / 1000 })}
        />
      ) : (
        <LoadFace sheet={sheet} face={face} loaded={loaded} job={job} setup={setup} began={began} />
      )}
      {!off && (
        <button type="button" className="tablet-off" onClick={() => setOff(true)}>
          Something&rsquo;s off
        </button>
      )}
      <Kept job={job} />
    </>
  );
}

function Kept({ job }: { job: string }) {
  const { waiting, refused } = useOutbox(job);
  return (
    <footer>
      <span role="status" data-testid="kept">
        {waiting > 0
          ? `${String(waiting)} ${waiting === 1 ? "entry waits" : "entries wait"} for the network and ${waiting === 1 ? "is" : "are"} kept here`
          : "Everything is written down"}
        {refused.length > 0 && `; ${String(refused.length)} not taken: see the log`}
      </span>
    </footer>
  );
}

function LoadFace({
  sheet,
  face,
  loaded,
  job,
  setup,
  began,
}: {
  sheet: SetupSheet;
  face: number;
  loaded: () => void;
  job: string;
  setup: number;
  began: number;
}) {
  const { withUnit } = useUnits();
  const shown = sheet.faces[face];
  const torque = sheet.tightened.find((item) => item.torque_nm != null);
  if (!shown) return null;
  const last = face + 1 === sheet.faces.length;
  return (
    <>
      <h1>{sheet.faces.length > 1 ? `Load face ${shown.name}` : "Load the plate"}</h1>
      {sheet.faces.length > 1 && (
        <p className="quiet">
          {face + 1} of {sheet.faces.length} faces
        </p>
      )}
      <div className="tablet-two">
        <div className="sheet-faces">
          <SheetFace face={shown} alone />
        </div>
        <div>
          <b>Each part</b>
          <ol>
            {sheet.loading.map((step) => (
              <li key={step}>
                <Said text={step} />
              </li>
            ))}
          </ol>
          {torque?.torque_nm != null && (
            <>
              <div className="tablet-big mono">{withUnit(torque.torque_nm, "N·m", 0)}</div>
              <p className="quiet">{torque.key}</p>
              {torque.window_nm && <Wrench job={job} setup={setup} window={torque.window_nm} began={began} />}
            </>
          )}
        </div>
      </div>
      {sheet.heavy
        .filter((item) => !item.by_hand)
        .map((item) => (
          <Notice key={item.what} title={capital(`${item.what}: ${withUnit(item.kg, "kg", 0)}`)}>
            <p>With a hoist, or two people. Follow the builder&rsquo;s manual and the shop&rsquo;s rules.</p>
          </Notice>
        ))}
      <button type="button" className="tablet-next" onClick={loaded}>
        {last ? "All loaded, it runs" : "Face loaded, next"}
      </button>
    </>
  );
}

/** What the wrench said since loading began, where one sends it. */
function Wrench({ job, setup, window, began }: { job: string; setup: number; window: number[]; began: number }) {
  const { withUnit } = useUnits();
  const { data } = useLogPage(job, 60);
  const said = (data?.entries ?? [])
    .filter((entry) => entry.kind === "torque" && entry.setup === setup && Date.parse(entry.at) >= began)
    .map((entry) => Number("torque_nm" in entry ? entry.torque_nm : 0));
  if (said.length === 0) return null;
  const near = said.filter((value) => value >= (window[0] ?? 0) && value <= (window[1] ?? 0)).length;
  return (
    <p data-testid="wrench">
      wrench says{" "}
      <span className="mono">
        {said
          .slice(0, 3)
          .map((value) => withUnit(value, "N·m", 1))
          .join(", ")}
      </span>
      <br />
      <strong className={near === said.length ? "within-text" : "over-text"}>
        {near} of {said.length} within {withUnit(window[0] ?? 0, "N·m", 1)} to {withUnit(window[1] ?? 0, "N·m", 1)}
      </strong>
    </p>
  );
}

function Runs({ since, planned, end }: { since: number; planned: number | null; end: () => void }) {
  return (
    <>
      <h1>It runs</h1>
      <div className="tablet-big mono">{clock(since)}</div>
      {planned != null && <p className="quiet">planned {clock(planned)}</p>}
      <button type="button" className="tablet-next" onClick={end}>
        The cycle ended
      </button>
    </>
  );
}

/** Press the stations whose part is no good. */
function CameOut({ sheet, done }: { sheet: SetupSheet; done: (scrapped: number[]) => void }) {
  const [bad, setBad] = useState<number[]>([]);
  const numbers = sheet.faces.flatMap((each) => each.stations.map((station) => station.number));
  const turn = (number: number) =>
    setBad(bad.includes(number) ? bad.filter((each) => each !== number) : [...bad, number]);
  return (
    <>
      <h1>Which are no good?</h1>
      <p className="quiet">Press their numbers; none if all are good.</p>
      <div className="tablet-numbers">
        {numbers.map((number) => (
          <button
            key={number}
            type="button"
            aria-pressed={bad.includes(number)}
            className="mono"
            onClick={() => turn(number)}
          >
            {number}
          </button>
        ))}
      </div>
      <button type="button" className="tablet-next" onClick={() => done(bad)}>
        {bad.length === 0 ? "All good, next" : `${String(bad.length)} scrapped, next`}
      </button>
    </>
  );
}

function SomethingOff({
  stations,
  write,
  close,
}: {
  stations: number[];
  write: (entry: Record<string, unknown>) => void;
  close: () => void;
}) {
  const [began] = useState(() => Date.now());
  const [what, setWhat] = useState<"" | "slip" | "crash">("");
  const since = useSince(began);
  if (what)
    return (
      <>
        <h1>{what === "slip" ? "Which part slipped?" : "Where was something hit?"}</h1>
        <div className="tablet-numbers">
          {stations.map((station) => (
            <button
              key={station}
              type="button"
              className="mono"
              onClick={() => write({ kind: what, station, note: "" })}
            >
              {station}
            </button>
          ))}
        </div>
        <button type="button" className="tablet-off" onClick={() => write({ kind: what, station: null, note: "" })}>
          At none of them
        </button>
      </>
    );
  return (
    <>
      <h1>What is off?</h1>
      <p className="quiet">
        The machine stands; <span className="mono">{clock(since)}</span> since you pressed.
      </p>
      <div className="tablet-list">
        {REASONS.map((reason) => (
          <button
            key={reason}
            type="button"
            onClick={() => write({ kind: "stop", reason, seconds: Math.max(1, since), note: "" })}
          >
            It goes on: {reason}
          </button>
        ))}
        <button type="button" onClick={() => setWhat("slip")}>
          A part slipped
        </button>
        <button type="button" onClick={() => setWhat("crash")}>
          Something was hit
        </button>
        <button type="button" onClick={close}>
          Nothing, back
        </button>
      </div>
    </>
  );
}
