/** What is typed, cut short, walked along: nothing typed is lost, nothing said is, and every tool is reached by keys. */
import { act, cleanup, fireEvent, render, renderHook, screen } from "@testing-library/react";
import fc from "fast-check";
import { afterEach, describe, expect, it, vi } from "vitest";

import { percent } from "../src/charts/percent";
import { Strip } from "../src/charts/Strip";
import { Cell } from "../src/ui/Cell";
import { Brief } from "../src/ui/More";
import { Tabs } from "../src/ui/Tabs";
import { Tool, Toolbar } from "../src/ui/Toolbar";
import { useTyped } from "../src/ui/useTyped";
import { Reads } from "./shown";

afterEach(cleanup);

const press = (key: string) => fireEvent.keyDown(document.activeElement as Element, { key });
const named = () => document.activeElement?.textContent ?? "";

describe("a value that is typed", () => {
  const typed = (given: Partial<Parameters<typeof useTyped>[0]> = {}, system: "metric" | "inch" = "metric") => {
    const store = vi.fn();
    const start = { value: 12.5, unit: "mm", text: false, error: undefined as string | undefined, store, ...given };
    const hook = renderHook((props: typeof start) => useTyped(props), {
      initialProps: start,
      wrapper: ({ children }) => <Reads system={system}>{children}</Reads>,
    });
    const enter = (text: string) => {
      act(() => hook.result.current.begin());
      act(() => hook.result.current.change(text));
      act(() => hook.result.current.finish());
    };
    return { store, hook, enter, start };
  };

  it("goes to the service as typed, with the unit it stood in where it has none", () => {
    const { store, enter } = typed();
    for (const text of ["20", "3/8 in", " 1.5 ", "two"]) enter(text);
    expect(store.mock.calls.map(([sent]) => sent as string)).toEqual(["20 mm", "3/8 in", "1.5 mm", "two"]);
    const inch = typed({}, "inch");
    inch.enter("1/2");
    expect(inch.store).toHaveBeenCalledWith("1/2 in");
  });

  it("is not sent where nothing was changed, nor when it is given up", () => {
    const { store, enter, hook } = typed();
    enter("12.5");
    act(() => hook.result.current.begin());
    act(() => hook.result.current.change("99"));
    act(() => hook.result.current.giveUp());
    expect(store).not.toHaveBeenCalled();
    expect(hook.result.current.typed).toBe("12.5");
  });

  it("stays as typed while it is typed, and while it is refused", () => {
    const { hook, start, enter } = typed();
    act(() => hook.result.current.begin());
    act(() => hook.result.current.change("1"));
    hook.rerender({ ...start, value: 40 }); // somebody else changed it meanwhile
    expect(hook.result.current.typed).toBe("1");
    enter("-3");
    hook.rerender({ ...start, value: 40, error: "above 0" });
    expect(hook.result.current.typed).toBe("-3");
    hook.rerender({ ...start, value: 40, error: undefined });
    expect(hook.result.current.typed).toBe("40");
  });

  it("may be emptied where that means something", () => {
    const cleared = vi.fn();
    const { store, enter } = typed({ cleared });
    enter("");
    expect(cleared).toHaveBeenCalledTimes(1);
    expect(store).not.toHaveBeenCalled();
    const plain = typed({ unit: "", value: 3 });
    plain.enter("4");
    plain.enter("4a");
    expect(plain.store.mock.calls.map(([sent]) => sent as unknown)).toEqual([4, "4a"]);
  });

  it("a cell says in short what would be cut off, and shows the whole to who types", () => {
    const store = vi.fn();
    render(
      <table>
        <tbody>
          <tr>
            <td>
              <Cell label="places" name="at" value="13, 16; 39, 16; 13, 48" short="3 places" text store={store} />
            </td>
          </tr>
        </tbody>
      </table>,
    );
    const cell = screen.getByLabelText<HTMLInputElement>("places");
    expect([cell.value, cell.title]).toEqual(["3 places", "13, 16; 39, 16; 13, 48"]);
    fireEvent.focus(cell);
    expect(cell.value).toBe("13, 16; 39, 16; 13, 48");
    fireEvent.blur(cell);
    expect(store).not.toHaveBeenCalled();
    fireEvent.focus(cell);
    fireEvent.change(cell, { target: { value: "13, 16" } });
    fireEvent.blur(cell);
    expect(store).toHaveBeenCalledWith("13, 16");
  });
});

it("a share that is not in is never a hundred percent", () => {
  fc.assert(
    fc.property(
      fc.oneof(fc.double({ min: 0, max: 3, noNaN: true }), fc.double({ min: 1, max: 1.002, noNaN: true })),
      (share) => {
        const shown = Number(percent(share));
        expect(Math.abs(shown - 100 * share)).toBeLessThanOrEqual(0.5001);
        if (share > 1 + 1e-9) expect(shown).toBeGreaterThan(100);
      },
    ),
  );
  expect(percent(1)).toBe("100");
});

it("what is said is cut at a pause within two lines, and not a word of it is lost", () => {
  const words = fc.array(fc.constantFrom("stop", "clamp", "brush", "out", "chips", "seen", "0.025", "mm", "H7"), {
    minLength: 1,
    maxLength: 9,
  });
  const pauses = fc.constantFrom(". ", "; ", ": ", ", ");
  const clause = fc.tuple(words, pauses).map(([said, pause]) => said.join(" ") + pause);
  fc.assert(
    fc.property(fc.array(clause, { minLength: 1, maxLength: 8 }), (clauses) => {
      const text = clauses.join("").trim();
      const { container } = render(<Brief text={text} />);
      const [first = "", rest = ""] = [...container.querySelectorAll("p")].map((p) => p.textContent);
      const bare = (said: string) => said.split(/[\s.;:,]+/).filter(Boolean).join(" "); // prettier-ignore
      expect(bare(`${first} ${rest}`)).toBe(bare(text));
      if (rest) {
        expect(first.length).toBeLessThanOrEqual(84);
        expect(container.querySelector("details")?.open).toBe(false);
      } else if (text.length > 84) expect(text.slice(25, 84)).not.toMatch(/[.;:,] \S/);
      cleanup();
    }),
  );
});

it("a caution is whole on paper, where nobody can press for more", () => {
  const { container } = render(
    <Brief text="Soft jaws: cut them clamped on something that leaves the gap; see that the part sits down on its floor" />,
  );
  const rest = container.querySelector("details");
  expect(rest?.open).toBe(false);
  act(() => void window.dispatchEvent(new Event("beforeprint")));
  expect(rest?.open).toBe(true);
  act(() => void window.dispatchEvent(new Event("afterprint")));
  expect(rest?.open).toBe(false);
});

describe("by keys", () => {
  it("a row of tools is one stop; arrows go round it and leave out what is off", () => {
    render(
      <Toolbar label="Tools">
        <Tool label="Turn" shortcut="T" does={() => undefined} />
        <Tool label="Lock" does={() => undefined} off />
        <Tool label="Add" does={() => undefined} />
        <Tool label="More" does={() => undefined} />
      </Toolbar>,
    );
    const stops = () =>
      screen.getAllByRole("button").filter((tool) => tool.tabIndex === 0 && !tool.hasAttribute("disabled"));
    expect(stops().map((tool) => tool.textContent)).toEqual(["TurnT"]);
    act(() => stops()[0]?.focus());
    const walked = ["ArrowRight", "ArrowRight", "ArrowRight", "ArrowLeft", "Home", "End"].map((key) => {
      press(key);
      return named();
    });
    expect(walked).toEqual(["Add", "More", "TurnT", "More", "TurnT", "More"]);
    expect(stops().map((tool) => tool.textContent)).toEqual(["More"]); // Tab comes back to where it was
    expect(screen.getAllByRole("button")[0]?.getAttribute("aria-keyshortcuts")).toBe("T");
  });

  it("tabs are one stop, and an arrow shows the next", () => {
    const choose = vi.fn();
    const tabs = ["one", "two", "three"].map((id) => ({ id, says: id }));
    render(<Tabs label="Setups" tabs={tabs} chosen="three" choose={choose} />);
    expect(screen.getAllByRole("tab").map((tab) => tab.tabIndex)).toEqual([-1, -1, 0]);
    act(() => screen.getByText("three").focus());
    press("ArrowRight");
    expect(choose).toHaveBeenLastCalledWith("one");
    cleanup();
    render(<Tabs label="Setups" tabs={tabs} chosen={null} choose={choose} />); // none chosen: still to be reached
    expect(screen.getAllByRole("tab").map((tab) => tab.tabIndex)).toEqual([0, -1, -1]);
  });

  it("parts of a whole are walked from end to end, each with its words", () => {
    const pieces = ["cuts", "moves", "waits"].map((key, k) => ({
      key,
      share: [0.5, 0.3, 0.2][k] ?? 0,
      says: `${key}: ${String(k)}`,
      drawn: <i />,
    }));
    render(<Strip says="A day" look="day-bar" pieces={pieces} />);
    const list = screen.getByRole("list", { name: "A day" });
    const items = [...list.querySelectorAll("li")];
    expect(items.map((item) => item.tabIndex)).toEqual([0, -1, -1]);
    expect(items.map((item) => item.style.getPropertyValue("--share"))).toEqual(["0.5", "0.3", "0.2"]);
    act(() => items[0]?.focus());
    const walked = ["ArrowRight", "End", "ArrowRight", "ArrowLeft", "Home", "ArrowLeft"].map((key) => {
      press(key);
      return document.activeElement?.getAttribute("aria-label");
    });
    expect(walked).toEqual(["moves: 1", "waits: 2", "waits: 2", "moves: 1", "cuts: 0", "cuts: 0"]);
  });
});
