/** Speeds that instruments usually have, as a choice. */
export const instrumentSpeeds = [1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200].map((value) => ({
  value,
  label: `${value} baud`,
}))
