import type { Chart, LensWish, Render } from "../api/client";

/** What a chart says, and how it differs from what stands behind it. */
export const sentencesOf = (chart: Chart): string =>
  [chart.sentence, chart.difference].filter(Boolean).join(" ");

/** The charts of a render in the places of the views that asked for them. */
export function chartsOf(views: (LensWish | undefined)[], render: Render | undefined): (Chart | undefined)[] {
  const asked = views.filter((one) => one !== undefined);
  return views.map((view) => {
    const chart = view && render?.lenses[asked.indexOf(view)];
    return chart?.kind === view?.kind ? chart : undefined;
  });
}
