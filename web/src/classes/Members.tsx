import { Link } from "react-router";

import { type Class, type ClassMember, client, got } from "../api/client";
import { useMaking } from "../api/jobs";
import { MakingState } from "../ui/MakingState";
import { day } from "../ui/times";

interface Props {
  found: Class;
  onRemove: (id: string) => void;
}

/** Who is in the class, and how far each is in each of its lessons. */
export function Members({ found, onRemove }: Props) {
  const making = useMaking();
  const write = () =>
    making.make("Writing the table", () =>
      got(client.POST("/api/classes/{class_id}/progress", { params: { path: { class_id: found.id } } })),
    );
  const { members, lessons } = found;
  return (
    <section aria-labelledby="members">
      <div className="mb-1 flex items-baseline gap-4">
        <h2 id="members" className="flex-1 font-read text-head font-semibold">
          {members.length === 0
            ? "Members"
            : `${members.length} ${members.length === 1 ? "member" : "members"}`}
        </h2>
        {members.length > 0 && lessons.length > 0 && (
          <button type="button" className="button" disabled={making.busy !== undefined} onClick={write}>
            Progress as a table (CSV)
          </button>
        )}
      </div>
      <MakingState making={making} />
      {members.length === 0 ? (
        <p className="border-t border-rule pt-2 font-read text-read text-soft italic">
          Nobody has joined yet. Say the code aloud, or put this page on the projector.
        </p>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full border-collapse text-left">
            <thead>
              <tr className="align-bottom text-soft">
                <th scope="col" className="py-1.5 pr-4 font-normal">
                  Name
                </th>
                {lessons.map((one) => (
                  <th key={one.id} scope="col" className="max-w-44 py-1.5 pr-4 font-normal">
                    <Link to={`/classes/${found.id}/${one.id}`} className="link">
                      {one.title}
                    </Link>
                  </th>
                ))}
                <th scope="col" className="py-1.5 pr-4 font-normal">
                  Joined
                </th>
                <th scope="col" className="sr-only">
                  Actions
                </th>
              </tr>
            </thead>
            <tbody>
              {members.map((one) => (
                <MemberRow key={one.id} found={found} member={one} onRemove={() => onRemove(one.id)} />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function MemberRow({ found, member, onRemove }: { found: Class; member: ClassMember; onRemove: () => void }) {
  return (
    <tr className="border-t border-rule" data-member={member.name}>
      <th scope="row" className="max-w-52 truncate py-1.5 pr-4 font-read text-read font-semibold">
        {member.name}
      </th>
      {found.lessons.map((lesson) => {
        const here = member.progress.find((one) => one.lesson === lesson.id);
        return (
          <td key={lesson.id} className="py-1.5 pr-4 whitespace-nowrap">
            {here ? (
              <>
                {here.done} of {lesson.step_count} done
                {here.place !== null && <span className="text-soft">, at step {here.place + 1}</span>}
                {here.waiting > 0 && <b className="ml-1.5 font-semibold text-warn">asks</b>}
              </>
            ) : (
              <span className="text-soft">not begun</span>
            )}
          </td>
        );
      })}
      <td className="py-1.5 pr-4 whitespace-nowrap text-soft">{day(member.joined_at)}</td>
      <td className="py-1.5 text-right">
        <button
          type="button"
          className="act-away"
          aria-label={`Take ${member.name} out of the class`}
          onClick={onRemove}
        >
          Take out
        </button>
      </td>
    </tr>
  );
}
