import { client, got } from "../api/client";
import { useMaking } from "../api/jobs";
import { MakingState } from "../ui/MakingState";

/** Everything of one's account, to be taken along. */
export function Mine() {
  const making = useMaking();
  const make = () => making.make("Gathering it", () => got(client.POST("/api/account/mine")));
  return (
    <section aria-labelledby="mine" className="mt-10">
      <h2 id="mine" className="mb-3 font-read text-head font-semibold">
        Take everything along
      </h2>
      <p className="mb-3 font-read">
        All that is kept of your account as one ZIP file: lessons, benches, questions, recordings, images.
      </p>
      <div className="flex flex-wrap items-center gap-3">
        {!making.busy && (
          <button type="button" className="button" onClick={make}>
            Save all of mine
          </button>
        )}
        <MakingState making={making} />
      </div>
    </section>
  );
}
