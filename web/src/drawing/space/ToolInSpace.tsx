import type { Tip } from "../tip";

/** The tool with its holder, its axis along the plate's own upright. */
export function ToolInSpace({ tip }: { tip: Tip }) {
  return (
    <group position={[tip.x, tip.y, tip.z]}>
      {tip.rings.map(([radius, low], k) => {
        const high = tip.rings[k + 1]?.[1] ?? Math.max(tip.length_mm, low + 1);
        return (
          <mesh key={k} position={[0, 0, (low + high) / 2]} rotation={[Math.PI / 2, 0, 0]}>
            <cylinderGeometry args={[radius, radius, high - low, 32]} />
            <meshStandardMaterial color={k === 0 ? "#c9a227" : "#7b8890"} />
          </mesh>
        );
      })}
    </group>
  );
}
