/** Where one can go from a lesson. */
export function placesOf(lessonId: string, place: number, here: "desk" | "practice") {
  return [
    { label: "Shelf", to: "/shelf", here: false },
    { label: "Desk", to: `/desk/${lessonId}/${place + 1}`, here: here === "desk" },
    { label: "Practice", to: `/practice/${lessonId}/${place + 1}`, here: here === "practice" },
  ];
}
