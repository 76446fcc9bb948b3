import { Button } from "@mui/material";
import type { ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";

import { Notice } from "./Notice";

function Failed({ error, resetErrorBoundary }: FallbackProps) {
  return (
    <div className="page" tabIndex={0}>
      <Notice title="This view failed">
        <p>
          Nothing that was saved is lost, and the other views go on. It said:{" "}
          <span className="mono">{error instanceof Error ? error.message : String(error)}</span>
        </p>
        <Button onClick={resetErrorBoundary}>Show it again</Button>
      </Notice>
    </div>
  );
}

/** What fails in it is said in its place, and the rest of the page lives; another `of` starts anew. */
export function Caught({ of, children }: { of: string; children: ReactNode }) {
  return (
    <ErrorBoundary FallbackComponent={Failed} resetKeys={[of]}>
      {children}
    </ErrorBoundary>
  );
}
