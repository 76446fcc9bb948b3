import type { ReactNode } from "react";

import { Problem } from "../api/client";
import { Said } from "./Said";

/** What went wrong or needs knowing, why, and what to do. */
export function Notice({
  title,
  children,
  kind = "plain",
  action,
}: {
  title: string;
  children?: ReactNode;
  /** Red only where a limit is exceeded; blue where nothing is wrong. */
  kind?: "plain" | "over" | "info";
  action?: ReactNode;
}) {
  return (
    <div className={`notice ${kind}`} role={kind === "info" ? "status" : "alert"}>
      <div>
        <p className="strong">
          <Said text={title} />
        </p>
        {children}
      </div>
      {action && <div className="to-end">{action}</div>}
    </div>
  );
}

export function ProblemNotice({ error, action }: { error: Error; action?: ReactNode }) {
  const title = error instanceof Problem ? error.title : "Something went wrong here";
  return (
    <Notice title={title} action={action}>
      <p>
        <Said text={error.message} />
      </p>
    </Notice>
  );
}
