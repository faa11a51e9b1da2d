import { useState } from "react";

import { client, got, type Midi, type Phrase, sentAs } from "../api/client";
import { saveMidi } from "../lenses/files";
import { Failure } from "../ui/Failure";
import { FileButton } from "../ui/FileButton";
import { Panel } from "../ui/Panel";
import { messageOf } from "../api/messageOf";

interface Props {
  phrase: Phrase;
  /** The levers that controllers can move, in their order. */
  levers: string[];
  className: string;
  onChange: ((phrase: Phrase) => void) | undefined;
}

/** Takes the phrase from a MIDI file, and saves it as one. */
export function MidiFiles({ phrase, levers, className, onChange }: Props) {
  const [file, setFile] = useState<File>();
  const [found, setFound] = useState<Midi>();
  const [failure, setFailure] = useState<string>();
  const read = async (data: File, track?: number) => {
    setFile(data);
    setFailure(undefined);
    try {
      const midi = await readMidi(data, levers, track);
      if (midi.phrase) onChange?.(midi.phrase);
      setFound(midi.phrase && midi.said.length === 0 ? undefined : midi);
    } catch (error) {
      setFound(undefined);
      setFailure(messageOf(error));
    }
  };
  const save = () => void saveMidi(phrase).catch((error: unknown) => setFailure(messageOf(error)));
  const close = () => {
    setFound(undefined);
    setFailure(undefined);
  };
  return (
    <>
      {onChange && (
        <FileButton
          label="A MIDI file"
          accept="audio/midi,audio/x-midi,.mid,.midi"
          className={className}
          onChoose={(data) => void read(data)}
        >
          From a MIDI file…
        </FileButton>
      )}
      <button type="button" className={className} onClick={save}>
        Save as MIDI
      </button>
      {(found ?? failure) !== undefined && (
        <Panel title="From a MIDI file" onClose={close}>
          <div className="overflow-y-auto px-4 pt-2 pb-4">
            <Failure said={failure} />
            {found && <Found midi={found} onTrack={(track) => file && void read(file, track)} />}
          </div>
        </Panel>
      )}
    </>
  );
}

/** What was found in a file, and its tracks where one has to be chosen. */
function Found({ midi, onTrack }: { midi: Midi; onTrack: (track: number) => void }) {
  return (
    <>
      {midi.said.map((one) => (
        <p key={one} className="font-read">
          {one}
        </p>
      ))}
      {midi.phrase === null && (
        <ul className="mt-2 flex flex-col gap-1">
          {midi.tracks.map((one) => (
            <li key={one.number}>
              <button type="button" className="button w-full text-left" onClick={() => onTrack(one.number)}>
                {one.name}, {one.notes} {one.notes === 1 ? "note" : "notes"}
              </button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

async function readMidi(data: File, levers: string[], track: number | undefined): Promise<Midi> {
  const params = { query: { levers, ...(track !== undefined && { track }) } };
  return got(client.POST("/api/phrases/midi", { params, ...(await sentAs(data)) }));
}
