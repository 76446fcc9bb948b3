import { useState, type MouseEvent } from "react";
import { NavLink, Outlet, useLocation } from "react-router";

import { usePreferences, useSignOut } from "./api/queries";
import type { Me } from "./api/types";
import { OwnPassword } from "./session/OwnPassword";
import { Caught } from "./ui/Failed";
import { Wedge } from "./ui/Wedge";

/** To what people came for: the plate where there is one, else the page beside the rail. */
function toWork(event: MouseEvent) {
  event.preventDefault();
  const plate = document.querySelector<HTMLElement>("svg[data-testid=plate][tabindex]");
  (plate ?? document.getElementById("here"))?.focus();
}

/** The rail at the left and the room beside it. */
export function Shell({ me }: { me: Me }) {
  const { pathname } = useLocation();
  const prefer = usePreferences();
  const signOut = useSignOut();
  const [changing, setChanging] = useState(false);
  return (
    <div className="shell">
      <a className="skip" href="#here" onClick={toWork}>
        Skip to the work
      </a>
      <nav className="rail" aria-label="Main">
        <div className="mark">
          <Wedge />
        </div>
        <NavLink to="/today">Today</NavLink>
        <NavLink to="/jobs">Jobs</NavLink>
        <NavLink to="/shelf">Shelf</NavLink>
        <NavLink to="/shop">Shop</NavLink>
        {me.role === "admin" && <NavLink to="/people">People</NavLink>}
        <div className="foot">
          <button
            type="button"
            className="plain"
            onClick={() => prefer.mutate({ units: me.units === "metric" ? "inch" : "metric" })}
            title="Switch units"
          >
            {me.units === "metric" ? "mm · N·m" : "in · in·lb"}
          </button>
          <button
            type="button"
            className="plain"
            onClick={() => prefer.mutate({ theme: me.theme === "light" ? "dark" : "light" })}
          >
            {me.theme === "light" ? "Dark" : "Light"}
          </button>
          <button
            type="button"
            className="plain"
            onClick={() => setChanging(true)}
            title={`Change the password of ${me.name}`}
          >
            Password
          </button>
          <button type="button" className="plain" onClick={() => signOut.mutate()} title={`Signed in as ${me.name}`}>
            Sign out
          </button>
        </div>
      </nav>
      {changing && <OwnPassword close={() => setChanging(false)} />}
      <main className="main" id="here" tabIndex={-1}>
        <Caught of={pathname}>
          <Outlet />
        </Caught>
      </main>
    </div>
  );
}
