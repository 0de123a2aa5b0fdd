/** People as a host types them: names with commas or lines between, some with an address beside them. */
import type { Schemas } from "@/shell/api/client";

type Invited = Schemas["NewAssessor"];
const ADDRESS = /<?([^\s<>,;]+@[^\s<>,;]+)>?/;

/** "Fern fern@tools.example, Moss" is Fern, who is written to, and Moss. */
export const peopleIn = (text: string, experience: Invited["experience"]): Invited[] =>
  text
    .split(/[\n,;]+/)
    .map((one) => one.trim())
    .filter(Boolean)
    .map((one) => {
      const address = ADDRESS.exec(one)?.[1] ?? "";
      return { name: one.replace(ADDRESS, "").trim(), experience, blind: true, address };
    });
