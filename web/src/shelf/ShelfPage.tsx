/** The shelf: fixtures that exist, each with its picture, place, state and counter; found by the number on its label. */
import { Button, CircularProgress, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { useChangeFixture, useFixture, useKeepPlaces, useShelf, useUsePlaces, type Fixture } from "../api/shelf";
import type { Me } from "../api/types";
import { SheetFace } from "../drawing/SheetFace";
import { Notice, ProblemNotice } from "../ui/Notice";
import { Said } from "../ui/Said";
import { useUnits } from "../ui/units";
import { useTitle } from "../ui/useTitle";

const STATES = ["in use", "to mend", "crashed", "scrapped"] as const;
const day = (at: string) =>
  new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });

export function ShelfPage({ me }: { me: Me }) {
  useTitle("Shelf");
  const { number = "" } = useParams();
  return number ? <One number={number} me={me} /> : <All />;
}

function All() {
  const { data, error, isPending } = useShelf();
  const navigate = useNavigate();
  const [asked, setAsked] = useState("");
  const shown = (data?.fixtures ?? []).filter((item) =>
    `${item.number} ${item.name} ${item.place}`.toLowerCase().includes(asked.toLowerCase()),
  );
  return (
    <>
      <header className="bar">
        <h1>Shelf</h1>
        <form
          className="push"
          onSubmit={(event) => {
            event.preventDefault();
            // a scanner is quicker than the list: a whole number goes to its page at once
            const number = asked.trim().toUpperCase();
            if (/^F-\d+$/.test(number)) void navigate(`/shelf/${number}`);
            else if (shown.length === 1 && shown[0]) void navigate(`/shelf/${shown[0].number}`);
          }}
        >
          <TextField
            name="find"
            label="Number, job or place; or scan a label"
            value={asked}
            autoFocus
            onChange={(event) => setAsked(event.target.value.replace(/^.*\/shelf\//, ""))}
          />
        </form>
      </header>
      <div className="page" tabIndex={0}>
        {isPending && <CircularProgress size={22} aria-label="Loading the shelf" />}
        {error && <ProblemNotice error={error} />}
        {data && data.fixtures.length === 0 && (
          <Notice title="Nothing is on the shelf yet" kind="info">
            <p>A fixture comes here from the Sheet of its job, with one press, and gets a number and a label.</p>
          </Notice>
        )}
        <div className="shelf">
          {shown.map((item) => (
            <Link key={item.id} to={`/shelf/${item.number}`} className="on-shelf">
              <div className="sheet-faces">{item.made.faces[0] && <SheetFace face={item.made.faces[0]} alone />}</div>
              <b className="mono">{item.number}</b> {item.name}
              <div className="quiet small">
                {item.place || "no place yet"}; {item.parts} parts over it
              </div>
              <Marks item={item} />
            </Link>
          ))}
        </div>
      </div>
    </>
  );
}

function Marks({ item }: { item: Fixture }) {
  return (
    <div className="small">
      {item.state !== "in use" && <strong>{item.state} </strong>}
      {item.changed && <strong>its job has another design now</strong>}
    </div>
  );
}

function One({ number, me }: { number: string; me: Me }) {
  const { data, error } = useFixture(number);
  return (
    <>
      <header className="bar">
        <h1>
          <Link to="/shelf">Shelf</Link>, {number}
        </h1>
      </header>
      <div className="page" tabIndex={0}>
        {error && <ProblemNotice error={error} />}
        {data && <About item={data} me={me} />}
      </div>
    </>
  );
}

function About({ item, me }: { item: Fixture; me: Me }) {
  const { withUnit } = useUnits();
  return (
    <div className="sheet-columns">
      <section aria-label="What it is">
        <h2>{item.name}</h2>
        <Marks item={item} />
        <div className={item.made.faces.length > 1 ? "sheet-faces many" : "sheet-faces"}>
          {item.made.faces.map((face, k) => (
            <SheetFace key={k} face={face} alone={item.made.faces.length === 1} />
          ))}
        </div>
      </section>
      <section aria-label="Where it is and how it is set">
        <table className="lines">
          <tbody>
            <Row name="For">
              {item.job_id ? (
                <Link to={`/jobs/${item.job_id}/sheet?setup=${String(item.setup)}`}>{item.name}</Link>
              ) : (
                item.name
              )}
            </Row>
            <Row name="On">{item.made.machine}</Row>
            <Row name="Form">{item.made.form}</Row>
            <Row name="Parts a cycle">{item.made.parts_a_cycle}</Row>
            {item.made.torque_nm != null && <Row name="Torque">{withUnit(item.made.torque_nm, "N·m", 0)}</Row>}
            <Row name="Zeros">{item.made.zeros.join(", ")}</Row>
            <Row name="Design">
              <span className="mono">{item.made.version}</span>, {day(item.created_at)}
            </Row>
            <Row name="Parts over it">{item.parts}</Row>
          </tbody>
        </table>
        {item.made.pick_up.length > 0 && (
          <>
            <h2>Picked up</h2>
            <ol>
              {item.made.pick_up.map((step, k) => (
                <li key={k}>
                  <Said text={step} />
                </li>
              ))}
            </ol>
          </>
        )}
        <Change key={`${item.place} ${item.state}`} item={item} me={me} />
        <h2>What happened</h2>
        <ul>
          {item.history.map((line, k) => (
            <li key={k}>
              {day(line.at)}, {line.person}: {line.what}
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

function Row({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <tr>
      <td className="quiet">{name}</td>
      <td>{children}</td>
    </tr>
  );
}

function Change({ item, me }: { item: Fixture; me: Me }) {
  const change = useChangeFixture(item.id);
  const keep = useKeepPlaces(item.id);
  const use = useUsePlaces(item);
  const [place, setPlace] = useState(item.place);
  const [note, setNote] = useState("");
  const may = me.role !== "viewer";
  const plans = me.role === "planner" || me.role === "admin";
  const failed = change.error ?? keep.error ?? use.error;
  return (
    <>
      <div className="tools middle">
        <Button variant="contained" component="a" href={`/api/shelf/${item.id}/label.pdf`} download>
          Label
        </Button>
        {plans && item.job_id && <Button onClick={() => keep.mutate()}>Keep measured places</Button>}
        {plans && item.made.measured && <Button onClick={() => use.mutate()}>Plan with its measured places</Button>}
      </div>
      {failed && <ProblemNotice error={failed} />}
      {use.isSuccess && <p role="status">Its job uses them now; plan it.</p>}
      {may && (
        <form
          className="money-rates"
          onSubmit={(event) => {
            event.preventDefault();
            change.mutate({ place, state: null, note: note.trim() });
            setNote("");
          }}
        >
          <TextField name="place" label="Lies at" value={place} onChange={(event) => setPlace(event.target.value)} />
          <TextField
            select
            name="state"
            label="State"
            value={item.state}
            onChange={(event) =>
              change.mutate({ place: null, state: event.target.value as (typeof STATES)[number], note: "" })
            }
          >
            {STATES.map((state) => (
              <MenuItem key={state} value={state}>
                {state}
              </MenuItem>
            ))}
          </TextField>
          <TextField name="note" label="What happened" value={note} onChange={(event) => setNote(event.target.value)} />
          <Button type="submit" variant="outlined" disabled={place === item.place && !note.trim()}>
            Write it down
          </Button>
        </form>
      )}
    </>
  );
}
