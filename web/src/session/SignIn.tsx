import { Button, TextField } from "@mui/material";
import { useState } from "react";

import { useSignIn } from "../api/queries";
import type { SessionState } from "../api/types";
import { Notice, ProblemNotice } from "../ui/Notice";
import { Wedge } from "../ui/Wedge";
import { useTitle } from "../ui/useTitle";

const ROLES: Record<string, string> = {
  planner: "lays out and changes jobs",
  operator: "reads at the machine",
  viewer: "reads",
  admin: "plans, keeps accounts",
};

export function SignIn({ session }: { session: SessionState }) {
  useTitle("Sign in");
  const signIn = useSignIn();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  return (
    <div className="sign-in">
      <div className="left">
        <Wedge size={44} />
        <div>
          <h1 className="text-narrow welcome">The most good parts off every cycle.</h1>
          <p className="size-xl above-14 text-narrow ink-pale">
            Lay a batch out on a fixture plate, and see which limit binds: room, clamping, tolerance, load or travel.
          </p>
        </div>
        <p className="small text-narrow ink-pale">
          Wedgecraft says which limits were checked, and against what. The machine builder's manual, local codes and
          licensed practice come first.
        </p>
      </div>
      <div className="right">
        <h2 className="size-xxl">Sign in</h2>
        {session.needs_admin && (
          <Notice title="This installation has no accounts yet">
            <p>
              Stop it and run <code className="mono">./start --real</code> in a terminal: it asks once for the first
              administrator's password.
            </p>
          </Notice>
        )}
        <form
          className="flex down gap-14 text-narrow"
          onSubmit={(event) => {
            event.preventDefault();
            signIn.mutate({ sign_in: name, password });
          }}
        >
          <TextField
            name="sign_in"
            label="Name"
            value={name}
            onChange={(event) => setName(event.target.value)}
            autoFocus
            required
            autoComplete="username"
          />
          <TextField
            name="password"
            label="Password"
            type="password"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
            required
            autoComplete="current-password"
          />
          <Button type="submit" variant="contained" size="medium" disabled={signIn.isPending}>
            {signIn.isPending ? "Signing in" : "Sign in"}
          </Button>
          {signIn.error && <ProblemNotice error={signIn.error} />}
        </form>
        {session.demo_accounts.length > 0 && (
          <div>
            <h2 className="size-l">Saltmarsh Gauge Works, a made-up shop to try</h2>
            <p className="quiet under-8">
              One click signs in. Begin as the planner: every job there already has a finished design.
            </p>
            <table className="lines">
              <tbody>
                {session.demo_accounts.map((account) => (
                  <tr key={account.sign_in}>
                    <td className="wide-150">
                      <Button
                        variant={account.role === "planner" ? "contained" : "outlined"}
                        fullWidth
                        onClick={() => signIn.mutate({ sign_in: account.sign_in, password: account.password })}
                      >
                        {account.name}
                      </Button>
                    </td>
                    <td className="quiet">{ROLES[account.role]}</td>
                    <td className="mono quiet smaller one-line">
                      {account.sign_in} / {account.password}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
      </div>
    </div>
  );
}
