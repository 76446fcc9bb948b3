import { useEffect } from "react";

/** What the browser calls the page, in its tab and in its history. */
export function useTitle(says: string) {
  useEffect(() => {
    document.title = says ? `${says} · Wedgecraft` : "Wedgecraft";
  }, [says]);
}
