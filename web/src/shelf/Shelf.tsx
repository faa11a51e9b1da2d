import { useSession } from "../api/queries";
import { EducatorShelf } from "./EducatorShelf";
import { LearnerShelf } from "./LearnerShelf";

/** All lessons: those that one writes, or those that one can practise. */
export function Shelf() {
  return useSession().data?.me?.role === "educator" ? <EducatorShelf /> : <LearnerShelf />;
}
