/** Paper whose printing is recorded: asked for with a POST, then saved as a file. */
import { trusted } from "./api/client";
import { Declined, type Problem } from "./api/problems";

/** Save the PDF that the server makes at `path`, under the name it gives. */
export async function savePaper(path: string): Promise<void> {
  const response = await trusted(new Request(new URL(path, window.location.origin), { method: "POST" }));
  if (!response.ok) {
    const told = (await response.json().catch(() => ({}))) as { problems?: Problem[] };
    throw new Declined(response.status, told.problems ?? []);
  }
  const name =
    /filename="([^"]+)"/.exec(response.headers.get("Content-Disposition") ?? "")?.[1] ?? "sheet.pdf";
  const address = URL.createObjectURL(await response.blob());
  const link = Object.assign(document.createElement("a"), { href: address, download: name });
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(address), 10_000);
}
