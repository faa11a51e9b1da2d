import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";

import { client, got, type Phrase } from "../../api/client";
import { useBench } from "../BenchContext";
import type { Balance, Player } from "../player";
import type { InCompany } from "../store";

const BALANCES: Record<InCompany, Balance> = {
  alone: { own: 1, others: 0 },
  with: { own: 1, others: 1 },
  without: { own: 0, others: 1 },
};

/** What the company of a phrase sounds like depends on this alone. */
const bare = (phrase: Phrase): Phrase => ({ ...phrase, title: "", notes: [], gestures: [] });

/** Lets the company of the phrase sound together with what a player plays. */
export function useCompany(player: Player): void {
  const { phrase, state } = useBench();
  const { inCompany, partAlone } = state;
  const has = phrase.company.some((one) => !one.muted || one.id === partAlone);
  const wish = { phrase: bare(phrase), alone: partAlone ?? null };
  const { data } = useQuery({
    queryKey: ["company", JSON.stringify(wish)],
    enabled: has,
    staleTime: Infinity,
    gcTime: 60_000,
    queryFn: async () => {
      const file = await got(client.POST("/api/company/sound", { body: wish, parseAs: "arrayBuffer" }));
      return player.decoded(file);
    },
  });
  useEffect(() => player.keep(has ? data : undefined), [player, data, has]);
  useEffect(() => player.mix(has ? BALANCES[inCompany] : BALANCES.alone), [player, has, inCompany]);
}
