/** How many there are, in words: “1 lesson”, “3 lessons”. */
export const counted = (count: number, one: string, many = `${one}s`): string =>
  `${count} ${count === 1 ? one : many}`;
