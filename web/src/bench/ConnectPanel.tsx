import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import {
  client,
  type Connection,
  type Edit,
  type Ends,
  got,
  type Module,
  type Offer,
  type Patch,
} from "../api/client";
import { type Catalogue, split, titleOf, spoken } from "../api/patch";
import { Finder } from "../ui/Finder";
import { Panel } from "../ui/Panel";
import { Segments } from "../ui/Segments";
import { depthText } from "../ui/units";
import { useBench } from "./BenchContext";

/** What is being connected: an output, or an input, or an end of a connection that moves elsewhere. */
export interface Connecting {
  port: string;
  into: boolean;
  /** Only to this module. */
  only?: string | undefined;
  /** The connection whose end moves. */
  moving?: Ends;
}

const SENSIBLE = 2;

/** Where a connection could lead, the sensible first, each with its reason; what makes less sense stays possible. */
export function ConnectPanel({ connecting }: { connecting: Connecting }) {
  const { patch, catalogue, state, act } = useBench();
  const [port, setPort] = useState(connecting.port);
  const { into, moving } = connecting;
  const offers = useOffers(patch, port, into);
  const nameIn = (offer: Offer) => nameOfOffer(patch, catalogue, offer, into);
  const find = findIn(connecting, offers.data ?? [], nameIn);
  const question = into ? "What is to come in?" : "Where is it to lead?";
  const close = () => state.ask(undefined);
  return (
    <Panel title={titleText(connecting, patch, catalogue, port)} onClose={close}>
      {!into && !moving && <OutputChoice patch={patch} catalogue={catalogue} port={port} onPort={setPort} />}
      {offers.error ? (
        <p role="alert" className="p-4 text-warn">
          {offers.error.message}
        </p>
      ) : (
        <Finder
          key={port} // another output begins anew, with the field in focus
          label={question}
          placeholder={question}
          find={find}
          keyOf={(offer) => `${offer.line.from}>${offer.line.to}${offer.weighs ? "*" : ""}`}
          onChoose={({ line, edits }) => act(moving ? [moved(moving, line)] : edits)}
          onClose={close}
          nothing={offers.data ? "There is nothing of that name that is not connected already." : "…"}
          draw={(offer) => <Row offer={offer} name={nameIn(offer)} unit={unitOf(patch, catalogue, offer)} />}
        />
      )}
    </Panel>
  );
}

const useOffers = (patch: Patch, port: string, into: boolean) =>
  useQuery({
    queryKey: ["offers", port, into, JSON.stringify(patch)],
    queryFn: () => got(client.POST("/api/patches/offers", { body: { patch, port, into } })),
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** Finds the offers that have all words in the text that the list prints of them, or in their port. */
const findIn =
  ({ into, only, moving }: Connecting, offers: Offer[], name: (offer: Offer) => string) =>
  (words: string): Offer[] => {
    const far = (offer: Offer) => split(into ? offer.line.from : offer.line.to);
    const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
    const text = (offer: Offer) => `${name(offer)} ${far(offer)[1]} ${offer.reason}`.toLowerCase();
    return offers.filter(
      (offer) =>
        !offer.present &&
        !(moving && offer.weighs) &&
        (only === undefined || far(offer)[0] === only) &&
        asked.every((word) => text(offer).includes(word)),
    );
  };

const moved = (line: Ends, to: Connection): Edit => ({
  kind: "move-end",
  line,
  to: { from: to.from, to: to.to },
});

function titleText(connecting: Connecting, patch: Patch, catalogue: Catalogue, port: string): string {
  const name = nameOf(patch, catalogue, port);
  if (connecting.moving) return connecting.into ? `Let ${name} be fed by…` : `Let ${name} lead to…`;
  return connecting.into ? `Connect to ${name}…` : `Connect ${name} to…`;
}

function nameOf(patch: Patch, catalogue: Catalogue, port: string): string {
  const [id, name] = split(port);
  const module = patch.modules.find((one) => one.id === id);
  const title = module ? titleOf(module, catalogue) : id;
  const input = catalogue.get(module?.type ?? "")?.inputs.find((one) => one.name === name);
  return name === "in" || name === "out" ? title : `${title}: ${input?.words ?? spoken(name)}`;
}

/** What an offer is called: its far end, or the line that it would weigh. */
function nameOfOffer(patch: Patch, catalogue: Catalogue, { line, weighs }: Offer, into: boolean): string {
  if (weighs) return `${nameOf(patch, catalogue, line.from)} → ${nameOf(patch, catalogue, line.to)}`;
  return nameOf(patch, catalogue, into ? line.from : line.to);
}

function unitOf(patch: Patch, catalogue: Catalogue, offer: Offer): string {
  const [id, name] = split(offer.line.to);
  const module = patch.modules.find((one) => one.id === id);
  const input = catalogue.get(module?.type ?? "")?.inputs.find((one) => one.name === name);
  return input?.kind === "audio" || input?.kind === "gate" ? "plain" : (input?.depth_unit ?? "");
}

function Row({ offer, name, unit }: { offer: Offer; name: string; unit: string }) {
  return (
    <div className={`grid grid-cols-[1fr_auto] gap-x-3 ${offer.rank > SENSIBLE ? "text-soft" : ""}`}>
      <span>
        <b className="font-medium">{name}</b> <span className="text-soft">{offer.reason}</span>
      </span>
      {unit !== "plain" && <span className="text-this">{depthText(offer.line.depth, unit)}</span>}
    </div>
  );
}

interface OutputChoiceProps {
  patch: Patch;
  catalogue: Catalogue;
  port: string;
  onPort: (port: string) => void;
}

/** Which output of a module that has several. */
function OutputChoice({ patch, catalogue, port, onPort }: OutputChoiceProps) {
  const [id] = split(port);
  const module: Module | undefined = patch.modules.find((one) => one.id === id);
  const outputs = catalogue.get(module?.type ?? "")?.outputs ?? [];
  if (outputs.length < 2) return null;
  return (
    <div className="px-4 pt-1">
      <Segments
        label="Output"
        options={outputs.map((one) => ({ value: `${id}.${one.name}`, word: one.name }))}
        value={port}
        onChange={onPort}
      />
    </div>
  );
}
