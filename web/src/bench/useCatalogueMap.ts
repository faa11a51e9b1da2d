import { useMemo } from "react";

import type { Catalogue } from "../api/patch";
import { useCatalogue } from "../api/queries";

/** The module types by name; undefined until they are known. */
export function useCatalogueMap(): Catalogue | undefined {
  const { data } = useCatalogue();
  return useMemo(() => data && new Map(data.map((type) => [type.name, type])), [data]);
}
