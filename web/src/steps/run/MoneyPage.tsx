/** The money on one page: this order with what stands on the table, or with tooling made first, and why. */
import type { RunResult } from "../../api/types";
import { useStored } from "../../editing/editor";
import { Field } from "../../ui/Field";

type Money = NonNullable<RunResult["money"]>;

export function MoneyPage({ money, run }: { money: Money; run: RunResult }) {
  return (
    <section aria-label="Money" data-testid="money">
      <h2>Money, {money.currency}</h2>
      {money.missing.length > 0 ? <Rates missing={money.missing} /> : <Courses money={money} quantity={run.quantity} />}
    </section>
  );
}

function Rates({ missing }: { missing: string[] }) {
  const stored = useStored();
  return (
    <>
      <p>Rates an hour are needed for it:</p>
      <div className="money-rates">
        {missing.map((path) => (
          <Field
            key={path}
            label={path.startsWith("job") ? "Person, an hour" : `Machine of setup ${String(setupOf(path))}, an hour`}
            {...stored(path)}
          />
        ))}
      </div>
    </>
  );
}

const setupOf = (path: string) => Number(/setups\.(\d+)/.exec(path)?.[1] ?? 0) + 1;
const whole = (value: number) => Math.round(value).toLocaleString("en").replaceAll(",", " ");

function Courses({ money, quantity }: { money: Money; quantity: number }) {
  const best = money.courses.reduce((a, b) => (b.all_orders < a.all_orders ? b : a));
  return (
    <>
      {money.says.map((sentence) => (
        <p key={sentence} className="money-says">
          {sentence}
        </p>
      ))}
      <table className="lines">
        <thead>
          <tr>
            <th>Course</th>
            <th className="num">to make</th>
            <th className="num">each order</th>
            <th className="num">a piece</th>
            <th className="num">this order of {quantity}</th>
            <th className="num">with repeats</th>
          </tr>
        </thead>
        <tbody>
          {money.courses.map((course) => (
            <tr key={course.name} className={course === best ? "chosen" : ""}>
              <td>{course.name}</td>
              <td className="num mono">{whole(course.made)}</td>
              <td className="num mono">{whole(course.each_order)}</td>
              <td className="num mono">{course.a_piece.toFixed(2)}</td>
              <td className="num mono one-line">
                {whole(course.total)} ({whole(course.low)} to {whole(course.high)})
              </td>
              <td className="num mono">{whole(course.all_orders)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {money.payback_months && (
        <p>
          Paid back in <span className="mono">{money.payback_months.mean.toFixed(1)}</span> months (
          <span className="mono">
            {money.payback_months.low.toFixed(1)} to {money.payback_months.high.toFixed(1)}
          </span>
          ).
        </p>
      )}
      <div className="money-two">
        <Lines money={money} />
        <Tornado money={money} />
      </div>
    </>
  );
}

function Lines({ money }: { money: Money }) {
  return (
    <table className="lines tight" aria-label="What a piece costs">
      <thead>
        <tr>
          <th>What a piece costs</th>
          <th className="num">a piece</th>
        </tr>
      </thead>
      <tbody>
        {money.lines.map((line) => (
          <tr key={line.what} title={line.why}>
            <td>{line.what}</td>
            <td className="num mono">{line.a_piece.toFixed(2)}</td>
          </tr>
        ))}
        {money.a_piece != null && (
          <tr>
            <td>
              <b>In all</b>
            </td>
            <td className="num mono">
              <b>{money.a_piece.toFixed(2)}</b>
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

/** How far each estimate moves what tooling saves: a bar from its low to its high, over one scale. */
function Tornado({ money }: { money: Money }) {
  const ends = money.uncertain.flatMap((item) => [item.low, item.high]);
  const [low, high] = [Math.min(0, ...ends), Math.max(0, ...ends)];
  const at = (value: number) => (100 * (value - low)) / Math.max(1e-9, high - low);
  return (
    <table className="lines tight" aria-label="What the answer hangs on">
      <thead>
        <tr>
          <th>What it saves, if this is off</th>
          <td className="third" />
          <td className="num" />
        </tr>
      </thead>
      <tbody>
        {money.uncertain.map((item) => (
          <tr key={item.what}>
            <td>{item.what}</td>
            <td>
              <svg className="worth-bar" viewBox="0 0 100 6" preserveAspectRatio="none" aria-hidden="true">
                <rect
                  x={at(Math.min(item.low, item.high))}
                  width={Math.max(0.6, Math.abs(at(item.high) - at(item.low)))}
                  height={6}
                  className="day-moves"
                />
                <rect x={at(0) - 0.3} width={0.6} height={6} className="zero" />
              </svg>
            </td>
            <td className="num mono one-line">
              {whole(Math.min(item.low, item.high))} to {whole(Math.max(item.low, item.high))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
