/** Kinds of elements that a construction is made for, in the order of the sheet. */
export const elements = [
  ["wall", "Wall"],
  ["party_wall", "Party wall"],
  ["basement_wall", "Basement wall"],
  ["roof", "Roof"],
  ["ground_floor", "Floor on ground"],
  ["exposed_floor", "Exposed floor"],
  ["partition", "Partition"],
  ["intermediate_floor", "Intermediate floor"],
] as const;

export const elementName = (id: string) => elements.find(([e]) => e === id)?.[1] ?? id;

/** Whether a construction fits an element: one of its own kind, or a wall where the wall's is taken unless given. */
export const fitsElement = (construction: string, element: string) =>
  construction === element || (construction === "wall" && ["party_wall", "basement_wall"].includes(element));
