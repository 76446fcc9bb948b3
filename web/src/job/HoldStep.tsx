import { useCatalogue } from "../api/queries";
import type { Contact, PlanResult } from "../api/types";
import { bounds, path, useScale } from "../layout/drawing";
import { Ask } from "../ui/Ask";
import { Field } from "../ui/Field";
import { useUnits } from "../ui/units";
import { useEditor, useFigures, usePlanned, useStored } from "./editor";
import { NotCurrent } from "./NotCurrent";

type Hold = NonNullable<PlanResult["hold"]>;

export function HoldStep() {
  const { job, mayEdit } = useEditor();
  const stored = useStored();
  const { withUnit } = useUnits();
  const hold = job.latest?.result?.hold ?? null;
  const find = useFigures();
  const stale = job.latest?.run.current === false ? "stale" : "";
  const rated = useCatalogue().data?.screws.find((screw) => screw.size === job.request.station.clamp.screw)?.rated_torque_nm;
  const holds = hold !== null && hold.result.factor >= hold.needed;
  return (
    <div className="bench">
      <section className="work">
        <NotCurrent />
        {hold && (
          <div className={stale} style={{ display: "flex", flexDirection: "column", gap: 12, flex: 1, minHeight: 0 }}>
            <div className="headline" style={{ alignItems: "flex-start", flexWrap: "nowrap" }}>
              <div>
                <div className="big mono" style={{ color: holds ? "var(--within)" : "var(--over)" }} data-testid="factor">
                  <Ask figure={find("hold_factor")}>{hold.result.factor.toFixed(2)}</Ask>
                </div>
                <div className="label">factor, needs {hold.needed}</div>
              </div>
              <p style={{ fontSize: 17, maxWidth: 640 }}>{hold.result.sentence}.</p>
            </div>
            <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1.2fr) minmax(0, 1fr)", gap: 18, flex: 1, minHeight: 260 }}>
              <div style={{ display: "flex", flexDirection: "column" }}>
                <h2>Plan, with the worst cutting force in red</h2>
                <PartPlan hold={hold} />
              </div>
              <div style={{ display: "flex", flexDirection: "column" }}>
                <h2>Factor by direction of cut</h2>
                <Polar hold={hold} />
              </div>
            </div>
          </div>
        )}
      </section>
      <aside className="side">
        <h2>Screw torque</h2>
        <Field label="On the clamp screw" {...stored("station.clamp.torque_nm", "N·m")} {...(mayEdit ? {} : { disabled: true })} />
        {hold && (
          <table className={`lines ${stale}`} style={{ marginTop: 10 }}>
            <tbody>
              <tr>
                <td>Holds from</td>
                <td className="num mono">{hold.least_torque_nm ? <Ask figure={find("least_torque")}>{withUnit(hold.least_torque_nm, "N·m", 1)}</Ask> : "not with this screw"}</td>
              </tr>
              {rated !== undefined && (
                <tr>
                  <td>Screw rated for</td>
                  <td className="num mono">{withUnit(rated, "N·m", 1)}</td>
                </tr>
              )}
              <tr>
                <td>Toe force, low end</td>
                <td className="num mono">
                  <Ask figure={find("preload")}>{withUnit(hold.preload_low_n, "N", 0)}</Ask>
                </td>
              </tr>
              <tr>
                <td>Toe force, high end</td>
                <td className="num mono">
                  <Ask figure={find("preload_high")}>{withUnit(hold.preload_high_n, "N", 0)}</Ask>
                </td>
              </tr>
              <tr>
                <td>Pressing down, low end</td>
                <td className="num mono">
                  <Ask figure={find("seating")}>{withUnit(hold.seating_n, "N", 0)}</Ask>
                </td>
              </tr>
            </tbody>
          </table>
        )}
        <hr />
        <h2>What was checked</h2>
        <p style={{ fontSize: 13.5 }}>
          The most this clamping could carry: forces balance with every contact inside its friction cone, at the low end of the preload, for the cut at eight places, two depths and sixteen directions, lifting and
          pressing. How the force shares itself out between contacts, and the pressure on them, is not part of it.
        </p>
        <hr />
        <h2>Caution</h2>
        <p style={{ fontSize: 13.5 }}>First article in single block, door shut. Torque within the clamp maker's rating. Follow the machine builder's manual and local rules.</p>
      </aside>
    </div>
  );
}

function PartPlan({ hold }: { hold: Hold }) {
  const { job } = useEditor();
  const { withUnit } = useUnits();
  const drawing = job.latest?.result?.designs[0]?.drawing;
  const { outline } = usePlanned().partDocument;
  const rings = drawing?.part ?? [outline.outer, ...(outline.holes ?? [])];
  const box = bounds(rings[0] ?? [[0, 0]]);
  const width = box.right - box.left;
  const depth = box.high - box.low;
  const { ref, px, viewBox } = useScale(width + 44, depth + 24, 26);
  const sides = hold.contacts.filter((contact) => contact.normal[2] === 0);
  const seen = new Map<string, Contact>();
  for (const contact of sides) seen.set(`${contact.point_mm[0].toFixed(2)} ${contact.point_mm[1].toFixed(2)}`, contact);
  const arrow = 26 * px;
  return (
    <div className="drawing" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label="Part with its contacts">
        <g transform={`translate(14 ${String(depth + 6)}) scale(1 -1)`}>
          <g transform={`translate(${String(-box.left)} ${String(-box.low)})`}>
            <path d={path(rings)} fill="var(--wash)" fillRule="evenodd" stroke="var(--ink)" strokeWidth={1.5 * px} />
          </g>
          {drawing && [...drawing.stops, ...drawing.clamps].map((ring, index) => <path key={index} d={path([ring])} fill="var(--steel)" />)}
          {[...seen.values()].map((contact) => {
            const [x, y] = contact.point_mm;
            const [nx, ny] = contact.normal;
            const long = contact.kind === "clamp" ? arrow * 1.7 : arrow;
            return (
              <g key={contact.name} stroke="var(--mark)" fill="var(--mark)" strokeWidth={(contact.kind === "clamp" ? 3 : 1.8) * px}>
                <line x1={x} y1={y} x2={x + nx * long} y2={y + ny * long} />
                <path d={`M${String(x + nx * long * 1.25)} ${String(y + ny * long * 1.25)}l${String((-nx * 9 - ny * 5) * px)} ${String((-ny * 9 + nx * 5) * px)}l${String(ny * 10 * px)} ${String(-nx * 10 * px)}Z`} stroke="none" />
              </g>
            );
          })}
          <path d={`M${String(-9 * px)} 0V${String(-9 * px)}H0Z`} fill="var(--mark)" />
          <Cutting load={hold.result.load} px={px} />
        </g>
        {[...seen.values()]
          .filter((contact) => contact.kind === "clamp")
          .map((contact) => (
            <text key={contact.name} x={14 + contact.point_mm[0] + 8 * px} y={depth + 6 - contact.point_mm[1] + 5 * px} fontSize={13.5 * px} fontFamily="IBM Plex Mono" fontWeight="500" fill="#14191D">
              {withUnit(contact.preload_n ?? 0, "N", 0)}
            </text>
          ))}
      </svg>
    </div>
  );
}

/** The cutting force of the worst case, where and how it pushes in the plane. */
function Cutting({ load, px }: { load: Hold["result"]["load"]; px: number }) {
  const [x, y] = load.point_mm;
  const [fx, fy] = load.force_n;
  const size = Math.hypot(fx, fy) || 1;
  const [ux, uy] = [fx / size, fy / size];
  const long = 44 * px;
  return (
    <g stroke="var(--over)" fill="var(--over)" strokeWidth={2.4 * px}>
      <circle cx={x} cy={y} r={3.5 * px} />
      <line x1={x} y1={y} x2={x + ux * long} y2={y + uy * long} />
      <path d={`M${String(x + ux * long * 1.2)} ${String(y + uy * long * 1.2)}l${String((-ux * 10 - uy * 5) * px)} ${String((-uy * 10 + ux * 5) * px)}l${String(uy * 10 * px)} ${String(-ux * 10 * px)}Z`} stroke="none" />
    </g>
  );
}

/** The lowest factor for each direction the cut can push in, with the ring that is needed. */
function Polar({ hold }: { hold: Hold }) {
  const { ref, px, viewBox } = useScale(220, 220, 22);
  const most = Math.max(hold.needed * 1.4, ...hold.by_direction.map((item) => Math.min(item.factor, hold.needed * 4)));
  const radius = (factor: number) => (100 * Math.min(factor, most)) / most;
  const point = (angle: number, factor: number): [number, number] => {
    const a = (angle * Math.PI) / 180;
    return [110 + radius(factor) * Math.cos(a), 110 - radius(factor) * Math.sin(a)];
  };
  const worst = hold.by_direction.reduce((low, item) => (item.factor < low.factor ? item : low), hold.by_direction[0] ?? { angle_deg: 0, factor: 0 });
  const [wx, wy] = point(worst.angle_deg, worst.factor);
  const rings = Array.from({ length: Math.floor(most) }, (_, index) => index + 1).filter((n) => most < 9 || n % 2 === 0);
  return (
    <div className="drawing" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label={`Factor by direction; lowest ${worst.factor.toFixed(2)} at ${worst.angle_deg.toFixed(0)} degrees`}>
        {rings.map((ring) => (
          <g key={ring}>
            <circle cx="110" cy="110" r={radius(ring)} fill="none" stroke="var(--rule)" strokeWidth={px} />
            <text x="112" y={110 - radius(ring) - 2 * px} fontSize={11.5 * px} fontFamily="IBM Plex Mono" fill="var(--quiet)">
              {ring}
            </text>
          </g>
        ))}
        <path d={`M${hold.by_direction.map((item) => point(item.angle_deg, item.factor).map((v) => v.toFixed(2)).join(" ")).join("L")}Z`} fill="var(--mark)" fillOpacity="0.16" stroke="var(--mark)" strokeWidth={2 * px} />
        <circle cx="110" cy="110" r={radius(hold.needed)} fill="none" stroke="var(--over)" strokeWidth={1.6 * px} />
        <circle cx={wx} cy={wy} r={5 * px} fill="var(--over)" />
        <text x="212" y={110 - 4 * px} fontSize={12 * px} fill="var(--quiet)" textAnchor="end">X+</text>
        <text x={110 - 8 * px} y={8} fontSize={12 * px} fill="var(--quiet)" textAnchor="end">Y+</text>
      </svg>
      <p className="quiet" style={{ position: "absolute", bottom: 0, fontSize: 12.5 }}>blue: factor at the low end of the preload · red ring: needed</p>
    </div>
  );
}
