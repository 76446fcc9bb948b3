/** For each kind of thing a drawing of what its dimensions mean; the field at hand is drawn in blue with its value. */
import type { ReactNode } from "react";

import { pen } from "../ui/pen";
import { useUnits } from "../ui/units";

interface Line {
  /** From and to; a single point with an arm is a leader. */
  at: [number, number, number, number];
  text: string;
}

interface Drawn {
  body: ReactNode;
  lines: Record<string, Line>;
}

const STEEL = { fill: "var(--face)", stroke: "var(--ink)", strokeWidth: 1.4 };
const DARK = { fill: "var(--steel)", stroke: "var(--ink)", strokeWidth: 1.2 };
const THIN = { fill: "none", stroke: "var(--steel)", strokeWidth: 1 };

const PICTURES: Record<string, Drawn> = {
  machine: {
    body: (
      <>
        <rect x="120" y="128" width="220" height="18" {...STEEL} />
        <rect x="150" y="146" width="160" height="24" {...DARK} />
        <path d="M60 180V20h40v150h300v10z" {...STEEL} />
        <rect x="205" y="24" width="50" height="44" {...STEEL} />
        <path d="M217 68h26l-4 16h-18z" {...DARK} />
        <rect x="226" y="84" width="8" height="24" {...STEEL} />
        <rect x="30" y="40" width="24" height="70" rx="3" {...THIN} />
      </>
    ),
    lines: {
      travel_x_mm: { at: [130, 118, 330, 118], text: "X" },
      travel_y_mm: { at: [345, 150, 395, 110], text: "Y" },
      travel_z_mm: { at: [275, 26, 275, 110], text: "Z" },
      table_x_mm: { at: [120, 158, 340, 158], text: "table" },
      table_y_mm: { at: [345, 146, 390, 112], text: "table" },
      spindle_to_table_mm: { at: [250, 84, 250, 128], text: "nose to table" },
      shortest_tool_mm: { at: [222, 84, 222, 108], text: "tool" },
      longest_tool_mm: { at: [222, 84, 222, 124], text: "tool" },
      table_load_kg: { at: [230, 100, 230, 126], text: "load" },
      swing_mm: { at: [150, 122, 310, 122], text: "swing" },
      spindle_power_kw: { at: [205, 46, 255, 46], text: "spindle" },
      spindle_torque_nm: { at: [205, 60, 255, 60], text: "torque" },
      spindle_rpm: { at: [205, 34, 255, 34], text: "speed" },
      torque_curve: { at: [205, 60, 255, 60], text: "torque" },
      magazine: { at: [42, 42, 42, 108], text: "magazine" },
      tool_change_s: { at: [54, 76, 205, 52], text: "change" },
      positioning_mm: { at: [226, 112, 234, 112], text: "±" },
      pallets: { at: [150, 166, 310, 166], text: "pallets" },
      pallet_change_s: { at: [310, 158, 390, 158], text: "change" },
    },
  },
  vise: {
    body: (
      <>
        <rect x="70" y="130" width="320" height="34" {...STEEL} />
        <rect x="90" y="70" width="60" height="60" {...DARK} />
        <rect x="280" y="70" width="60" height="60" {...DARK} />
        <rect x="340" y="110" width="64" height="10" {...STEEL} />
        <rect x="30" y="164" width="400" height="8" {...THIN} />
        <path d="M404 96v38" stroke="var(--ink)" strokeWidth="5" />
      </>
    ),
    lines: {
      jaw_width_mm: { at: [94, 60, 146, 40], text: "jaw width" },
      jaw_height_mm: { at: [165, 70, 165, 130], text: "jaw height" },
      opening_mm: { at: [150, 100, 280, 100], text: "opening" },
      bed_height_mm: { at: [55, 130, 55, 166], text: "bed" },
      length_mm: { at: [70, 186, 404, 186], text: "length" },
      rated_force_n: { at: [280, 84, 240, 84], text: "force" },
      rated_torque_nm: { at: [404, 90, 404, 140], text: "torque" },
      jaw_friction: { at: [150, 84, 150, 126], text: "friction" },
      tilt_stiffness_nm_per_mrad: { at: [282, 66, 300, 46], text: "tilt" },
      force_scatter: { at: [280, 84, 240, 84], text: "± share" },
      stations: { at: [150, 100, 280, 100], text: "places" },
      mass_kg: { at: [230, 130, 230, 164], text: "mass" },
      quick_jaws: { at: [90, 66, 150, 66], text: "jaws" },
    },
  },
  plate: {
    body: (
      <>
        <rect x="80" y="20" width="250" height="130" {...STEEL} />
        <rect x="94" y="34" width="222" height="102" {...THIN} strokeDasharray="4 3" />
        {[
          [96, 36],
          [314, 36],
          [96, 134],
          [314, 134],
        ].map(([x, y]) => (
          <circle key={`${String(x)} ${String(y)}`} cx={x} cy={y} r="9" {...DARK} />
        ))}
        <path d="M80 150v14h14z" fill="var(--mark)" />
        <rect x="80" y="172" width="250" height="16" {...STEEL} />
      </>
    ),
    lines: {
      width_mm: { at: [80, 10, 330, 10], text: "width" },
      depth_mm: { at: [350, 20, 350, 150], text: "depth" },
      thickness_mm: { at: [350, 172, 350, 188], text: "thickness" },
      margin_mm: { at: [80, 86, 94, 86], text: "margin" },
      keepouts: { at: [305, 36, 323, 36], text: "keep-out" },
      material: { at: [180, 180, 230, 180], text: "" },
    },
  },
  block: {
    body: (
      <>
        <path d="M150 20h110v130H150z" {...STEEL} />
        <path d="M260 20l36-14v130l-36 14z" {...STEEL} />
        <path d="M150 20l36-14h110l-36 14z" {...STEEL} />
        <rect x="120" y="150" width="200" height="16" {...DARK} />
        <g {...THIN}>
          {[0, 1, 2].flatMap((c) =>
            [0, 1, 2, 3].map((r) => (
              <circle key={`${String(c)}${String(r)}`} cx={175 + 30 * c} cy={42 + 28 * r} r="3.5" />
            )),
          )}
        </g>
      </>
    ),
    lines: {
      face_width_mm: { at: [150, 176, 260, 176], text: "face width" },
      face_height_mm: { at: [136, 20, 136, 150], text: "face height" },
      across_mm: { at: [262, 12, 298, -2], text: "across" },
      wall_mm: { at: [150, 86, 166, 86], text: "wall" },
      base_mm: { at: [330, 150, 330, 166], text: "base" },
      hole_pitch_mm: { at: [175, 42, 205, 42], text: "pitch" },
      faces: { at: [205, 86, 280, 76], text: "faces" },
      mass_kg: { at: [205, 100, 205, 150], text: "mass" },
    },
  },
  clamp: {
    body: (
      <>
        <rect x="20" y="150" width="420" height="20" {...STEEL} />
        <rect x="40" y="70" width="130" height="80" fill="var(--wash)" stroke="var(--ink)" />
        <path d="M172 112h20l10-14h88v52H180z" {...DARK} />
        <rect x="232" y="62" width="26" height="36" {...STEEL} />
        <path d="M214 56a31 9 0 0 0 62 0" {...THIN} strokeDasharray="4 3" />
      </>
    ),
    lines: {
      width_mm: { at: [192, 190, 290, 190], text: "width: across the picture" },
      length_mm: { at: [172, 182, 290, 182], text: "length" },
      height_mm: { at: [306, 98, 306, 150], text: "height" },
      toe_height_mm: { at: [160, 118, 160, 150], text: "presses at" },
      stroke_mm: { at: [156, 100, 172, 100], text: "stroke" },
      wrench_diameter_mm: { at: [214, 44, 276, 44], text: "wrench" },
      torque_nm: { at: [245, 62, 245, 30], text: "torque" },
      screw: { at: [232, 78, 258, 78], text: "screw" },
      transmission: { at: [200, 118, 150, 118], text: "force" },
      rated_force_n: { at: [200, 118, 140, 118], text: "force" },
      down_angle_deg: { at: [200, 112, 150, 128], text: "down" },
      friction: { at: [172, 104, 172, 140], text: "friction" },
    },
  },
  locator: {
    body: (
      <>
        <rect x="20" y="150" width="420" height="20" {...STEEL} />
        <rect x="210" y="60" width="170" height="90" fill="var(--wash)" stroke="var(--ink)" />
        <rect x="166" y="92" width="44" height="58" {...DARK} />
        <path d="M92 150v-46a14 6 0 0 1 28 0v46z" {...DARK} />
      </>
    ),
    lines: {
      diameter_mm: { at: [92, 88, 120, 88], text: "diameter" },
      thickness_mm: { at: [166, 80, 210, 80], text: "thickness" },
      length_mm: { at: [166, 186, 210, 186], text: "length: across the picture" },
      height_mm: { at: [152, 92, 152, 150], text: "height" },
      capacity_n: { at: [260, 120, 212, 120], text: "carries" },
      friction: { at: [210, 96, 210, 146], text: "friction" },
      repeat_mm: { at: [204, 70, 216, 70], text: "±" },
      fit: { at: [92, 70, 120, 70], text: "fit" },
    },
  },
  cutter: {
    body: (
      <>
        <rect x="180" y="10" width="70" height="60" {...STEEL} />
        <path d="M172 70h86v96l-10 10h-66l-10-10z" {...DARK} />
        <path d="M172 166l86-46M172 130l86-46M182 176l76-40" stroke="var(--ink)" strokeWidth="1.4" />
      </>
    ),
    lines: {
      diameter_mm: { at: [172, 192, 258, 192], text: "diameter" },
      flute_length_mm: { at: [276, 70, 276, 176], text: "cutting length" },
      reach_mm: { at: [150, 14, 150, 176], text: "reach" },
      helix_deg: { at: [172, 166, 258, 120], text: "helix" },
      entering_deg: { at: [248, 176, 270, 160], text: "entering angle" },
      teeth: { at: [182, 184, 248, 184], text: "teeth" },
      point_deg: { at: [182, 186, 248, 186], text: "point" },
      pitch_mm: { at: [262, 84, 262, 120], text: "pitch" },
      width_mm: { at: [160, 150, 160, 176], text: "blade" },
    },
  },
  holder: {
    body: (
      <>
        <path d="M170 6h100v20H170z" {...STEEL} />
        <path d="M180 26h80v50h-10l-6 44h-48l-6-44h-10z" {...DARK} />
        <rect x="206" y="120" width="28" height="56" {...STEEL} />
      </>
    ),
    lines: {
      nose_diameter_mm: { at: [196, 128, 244, 128], text: "nose" },
      body_diameter_mm: { at: [180, 50, 260, 50], text: "body" },
      gauge_length_mm: { at: [290, 26, 290, 120], text: "gauge length" },
      bore_mm: { at: [206, 182, 234, 182], text: "shank" },
      runout_mm: { at: [214, 160, 226, 160], text: "runout" },
      mass_kg: { at: [220, 40, 220, 76], text: "mass" },
    },
  },
  material: {
    body: (
      <>
        <path d="M60 170h160v-60H60z" fill="var(--wash)" stroke="var(--ink)" />
        <path d="M220 110l30-34 26 22-26 30v42h-30z" {...DARK} />
        <path d="M212 110c-8-24-34-30-48-18 14-2 26 6 28 18z" {...STEEL} />
        <path d="M300 170V60l60-30h70" fill="none" stroke="var(--ink)" strokeWidth="1.6" />
        <path d="M300 170h140M300 170V14" stroke="var(--steel)" strokeWidth="1" />
      </>
    ),
    lines: {
      kc11_mpa: { at: [250, 100, 206, 108], text: "kc1.1" },
      mc: { at: [164, 92, 196, 110], text: "mc" },
      density_kg_m3: { at: [70, 140, 210, 140], text: "density" },
      youngs_mpa: { at: [300, 150, 300, 66], text: "modulus" },
      yield_mpa: { at: [300, 60, 360, 30], text: "yield" },
      expansion_per_k: { at: [60, 184, 220, 184], text: "expansion" },
    },
  },
};

export function Picture({
  kind,
  data,
  focus,
  fields,
}: {
  kind: string;
  data: Record<string, unknown>;
  focus: string;
  fields: string[];
}) {
  const { plain } = useUnits();
  const drawn = PICTURES[kind];
  if (!drawn) return null;
  const line = drawn.lines[focus];
  const value = data[focus];
  const text = line ? `${line.text} ${typeof value === "number" ? plain(value, unitOf(focus)) : ""}`.trim() : "";
  return (
    <svg
      viewBox="0 -6 460 208"
      width="100%"
      height="100%"
      role="img"
      aria-label={line ? `${kind}: ${text}` : `Picture of a ${kind}`}
    >
      {drawn.body}
      {Object.entries(drawn.lines)
        .filter(([name]) => name !== focus && name.endsWith("_mm") && fields.includes(name))
        .map(([name, { at }]) => (
          <line
            key={name}
            x1={at[0]}
            y1={at[1]}
            x2={at[2]}
            y2={at[3]}
            stroke="var(--steel)"
            strokeWidth="0.7"
            strokeDasharray="2 3"
          />
        ))}
      {line && <Pointed line={line} text={text} />}
    </svg>
  );
}

const UNITS = { _mm: "mm", _nm: "N·m", _n: "N" };
const unitOf = (name: string) => Object.entries(UNITS).find(([end]) => name.endsWith(end))?.[1] ?? "";

function Pointed({ line, text }: { line: Line; text: string }) {
  const [x1, y1, x2, y2] = line.at;
  const length = Math.hypot(x2 - x1, y2 - y1) || 1;
  const [ux, uy] = [(x2 - x1) / length, (y2 - y1) / length];
  const head = (x: number, y: number, s: number) =>
    pen`M${x} ${y}l${s * (7 * ux - 3.5 * uy)} ${s * (7 * uy + 3.5 * ux)}` +
    pen`M${x} ${y}l${s * (7 * ux + 3.5 * uy)} ${s * (7 * uy - 3.5 * ux)}`;
  const upright = Math.abs(uy) > Math.abs(ux);
  const end = x1 > 300;
  return (
    <g stroke="var(--mark)" strokeWidth="2" fill="none">
      <line x1={x1} y1={y1} x2={x2} y2={y2} />
      <path d={head(x1, y1, 1) + head(x2, y2, -1)} />
      <text
        x={upright ? Math.max(x1, x2) + 8 : (x1 + x2) / 2}
        y={upright ? (y1 + y2) / 2 + 5 : Math.max(8, Math.min(y1, y2) - 6)}
        textAnchor={upright ? (end && text.length > 12 ? "end" : "start") : "middle"}
        fontSize="14"
        fontFamily="IBM Plex Mono"
        fontWeight="500"
        stroke="var(--sheet)"
        strokeWidth="4"
        paintOrder="stroke"
        fill="var(--mark)"
      >
        {text}
      </text>
    </g>
  );
}
