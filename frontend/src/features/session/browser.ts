/** A browser by what it says of the machine it runs on, in its own words: the first part in brackets, or the first word of a program. */
export function browserName(agent: string): string {
  const machine = agent.match(/\(([^)]+)\)/)?.[1];
  return machine ?? agent.split(/[\s/]/)[0] ?? "";
}
