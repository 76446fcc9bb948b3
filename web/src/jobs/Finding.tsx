/** Which jobs, and in which order. */
import { MenuItem, TextField } from "@mui/material";
import { useState } from "react";

import type { JobOrder } from "../api/queries";

const ORDERS: { value: JobOrder; label: string }[] = [
  { value: "changed", label: "last changed" },
  { value: "due", label: "due first" },
  { value: "name", label: "by name" },
  { value: "quantity", label: "largest first" },
];

interface Props {
  search: string;
  find: (search: string) => void;
  order: JobOrder;
  sort: (order: JobOrder) => void;
}

export function Finding({ search, find, order, sort }: Props) {
  const [typed, setTyped] = useState(search);
  return (
    <>
      <TextField
        type="search"
        name="search"
        label="Find a job or machine"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          find(event.target.value.trim());
        }}
        className="wide-220"
      />
      <TextField
        select
        name="order"
        label="Order"
        value={order}
        onChange={(event) => sort(event.target.value as JobOrder)}
        className="wide-140"
      >
        {ORDERS.map(({ value, label }) => (
          <MenuItem key={value} value={value} dense>
            {label}
          </MenuItem>
        ))}
      </TextField>
    </>
  );
}
