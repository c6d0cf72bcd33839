import { useEffect } from "react";

const name = "Neokinema";

/** useTitle names the page in tab and history by what it is of, so that they can be told apart. */
export function useTitle(...of: (string | undefined)[]) {
  const title = [...of.filter(Boolean), name].join(" · ");
  useEffect(() => {
    document.title = title;
    return () => {
      document.title = name;
    };
  }, [title]);
}
