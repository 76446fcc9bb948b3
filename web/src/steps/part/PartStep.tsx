/** Step 1: the parts of the job, each with its shape, its stock, and the features whose tolerances matter. */
import { useSearchParams } from "react-router";

import { useCatalogue } from "../../api/queries";
import { useEditor } from "../../editing/editor";
import { FeaturesSection } from "./FeaturesSection";
import { RecessesSection } from "./RecessesSection";
import { ShapeSection } from "./ShapeSection";
import { StatesSection } from "./StatesSection";
import { StockSection } from "./StockSection";
import { Tabs } from "../../ui/Tabs";

const SECTIONS = [
  { name: "shape", label: "Shape" },
  { name: "recesses", label: "Holes and pockets" },
  { name: "stock", label: "Stock" },
  { name: "features", label: "Features and tolerances" },
  { name: "states", label: "Blank to finished" },
] as const;

export function PartStep() {
  const { parts, change, mayEdit, job } = useEditor();
  const [asked, setAsked] = useSearchParams();
  const start = useCatalogue().data?.part;
  const index = Math.min(Number(asked.get("part") ?? 0) || 0, parts.length - 1);
  const section = asked.get("show") ?? "shape";
  const part = parts[index];
  const facts = job.facts[index];
  const go = (to: { part?: number; show?: string }) =>
    setAsked({ part: String(to.part ?? index), show: to.show ?? section }, { replace: true });
  if (!part || !facts) return null;
  return (
    <div className="step">
      <div className="tabs">
        <Tabs
          label="Parts of the job"
          chosen={index}
          choose={(number) => go({ part: Number(number) })}
          tabs={parts.map((item, number) => ({
            id: number,
            says: (
              <>
                {item.name} {parts.length > 1 && <span className="mono">×{item.per_kit ?? 1}</span>}
              </>
            ),
          }))}
        />
        {mayEdit && start && parts.length < 20 && (
          <button
            type="button"
            className="add"
            onClick={() => {
              change("job.parts", [...parts, { ...start, name: `Part ${String(parts.length + 1)}` }]);
              go({ part: parts.length, show: "shape" });
            }}
          >
            Add a part to the kit
          </button>
        )}
        <span className="to-end flex ruled-left">
          <Tabs
            label="Of the part"
            look="section"
            chosen={section}
            choose={(name) => go({ show: String(name) })}
            tabs={SECTIONS.map(({ name, label }) => ({ id: name, says: label }))}
          />
        </span>
      </div>
      {section === "states" ? (
        <StatesSection key={index} index={index} part={part} />
      ) : section === "recesses" ? (
        <RecessesSection index={index} part={part} facts={facts} />
      ) : section === "stock" ? (
        <StockSection index={index} part={part} facts={facts} />
      ) : section === "features" ? (
        <FeaturesSection index={index} part={part} facts={facts} />
      ) : (
        <ShapeSection key={index} index={index} part={part} facts={facts} />
      )}
    </div>
  );
}
