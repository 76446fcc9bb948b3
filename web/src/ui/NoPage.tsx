import { Link, useLocation } from "react-router";

import { Notice } from "./Notice";
import { useTitle } from "./useTitle";

/** An address that leads nowhere. */
export function NoPage() {
  const { pathname } = useLocation();
  useTitle("No such page");
  return (
    <div className="page" tabIndex={0}>
      <Notice title="No such page">
        <p>
          There is nothing at <span className="mono">{pathname}</span>. <Link to="/jobs">All jobs</Link>,{" "}
          <Link to="/shelf">the shelf</Link>, <Link to="/shop">the shop</Link>.
        </p>
      </Notice>
    </div>
  );
}
