import { Button, MenuItem, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, Problem } from "../api/client";
import { usePeople } from "../api/queries";
import type { Person } from "../api/types";
import { ProblemNotice } from "../ui/Notice";
import { useTitle } from "../ui/useTitle";

const ROLES = ["admin", "planner", "operator", "viewer"];
const EMPTY = { sign_in: "", name: "", role: "planner", password: "" };

export function PeoplePage() {
  useTitle("People");
  const people = usePeople();
  const cache = useQueryClient();
  const done = () => cache.invalidateQueries({ queryKey: ["people"] });
  const change = useMutation({
    mutationFn: ({ id, ...given }: { id: string; role?: string; active?: boolean }) =>
      call<Person>("PATCH", `/api/people/${id}`, given),
    onSettled: done,
  });
  const [given, setGiven] = useState(EMPTY);
  const add = useMutation({
    mutationFn: (made: typeof EMPTY) => call<Person>("POST", "/api/people", made, made),
    onSuccess: () => {
      setGiven(EMPTY);
      void done();
    },
  });
  const wrong = (field: string) =>
    add.error instanceof Problem ? add.error.errors.find((item) => item.field === field)?.message : undefined;
  return (
    <>
      <header className="bar">
        <h1>People</h1>
      </header>
      <div className="page flex down gap-20 text-wide">
        {(people.error ?? change.error) && <ProblemNotice error={people.error ?? change.error ?? new Error("")} />}
        <table className="lines">
          <thead>
            <tr>
              <th>Signs in as</th>
              <th>Name</th>
              <th>Role</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {people.data?.people.map((person) => (
              <tr key={person.id}>
                <td className="mono">{person.sign_in}</td>
                <td>{person.name}</td>
                <td>
                  <TextField
                    select
                    value={person.role}
                    aria-label={`Role of ${person.name}`}
                    onChange={(event) => change.mutate({ id: person.id, role: event.target.value })}
                  >
                    {ROLES.map((role) => (
                      <MenuItem key={role} value={role} dense>
                        {role}
                      </MenuItem>
                    ))}
                  </TextField>
                </td>
                <td>
                  <Button
                    variant="outlined"
                    color={person.active ? "error" : "primary"}
                    onClick={() => change.mutate({ id: person.id, active: !person.active })}
                  >
                    {person.active ? "Lock" : "Unlock"}
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <form
          className="form text-wide"

          onSubmit={(event) => {
            event.preventDefault();
            add.mutate({ ...given });
          }}
        >
          <h2>Add someone</h2>
          {(["sign_in", "name", "password"] as const).map((field) => (
            <TextField
              key={field}
              name={field}
              label={{ sign_in: "Signs in as", name: "Name", password: "First password" }[field]}
              type={field === "password" ? "password" : "text"}
              autoComplete={field === "password" ? "new-password" : "off"}
              value={given[field]}
              onChange={(event) => setGiven({ ...given, [field]: event.target.value })}
              required
              error={Boolean(wrong(field))}
              helperText={wrong(field) ?? (field === "password" ? "at least 10 characters" : "")}
            />
          ))}
          <TextField
            select
            label="Role"
            value={given.role}
            onChange={(event) => setGiven({ ...given, role: event.target.value })}
          >
            {ROLES.map((role) => (
              <MenuItem key={role} value={role} dense>
                {role}
              </MenuItem>
            ))}
          </TextField>
          {add.error && (
            <div className="wide">
              <ProblemNotice error={add.error} />
            </div>
          )}
          <div className="wide">
            <Button type="submit" variant="contained" disabled={add.isPending}>
              Add
            </Button>
          </div>
        </form>
      </div>
    </>
  );
}
