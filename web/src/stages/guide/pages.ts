/** The pages of the guide: the same files that stand in the documentation. */
import { marked } from "marked";

const files: Record<string, string> = import.meta.glob("../../../../docs/guide/[0-9]*.md", {
  query: "?raw",
  import: "default",
  eager: true,
});

export interface GuidePage {
  key: string;
  title: string;
  body: string;
}

/** `app:/bench` is a place in the app, `app:/go/plan/doses` one in a trial of the reader's. */
const placed = (text: string) => text.replaceAll("](app:", "](");

export const PAGES: GuidePage[] = Object.entries(files)
  .sort(([a], [b]) => a.localeCompare(b))
  .map(([path, text]) => {
    const [head, ...rest] = text.split("\n");
    return {
      key: path.replace(/^.*\/\d+-/, "").replace(/\.md$/, ""),
      title: (head ?? "").replace(/^# /, ""),
      body: placed(rest.join("\n")),
    };
  });

/** A page as HTML; it is written here alone, so nothing in it is foreign. */
export const shown = (page: GuidePage): string => marked.parse(page.body, { async: false });
