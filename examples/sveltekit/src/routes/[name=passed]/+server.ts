// The feeds, the map and what programs that walk the site are told, as the service has them. Drafts are for nobody who walks.
import { service, site, stage } from "$lib/server/hawthorn";
import type { RequestHandler } from "./$types";

const NAMES: Record<string, string> = { "feed.atom": "atom", "feed.json": "json" };

export const GET: RequestHandler = async ({ params, url, fetch }) => {
  if (stage()) return new Response("User-agent: *\nDisallow: /\n", { status: params.name === "robots.txt" ? 200 : 404 });
  const found = await fetch(`${service()}/feeds/${site()}/${NAMES[params.name] ?? params.name}${url.search}`);
  return new Response(found.body, { status: found.status, headers: { "Content-Type": found.headers.get("content-type") ?? "text/plain" } });
};
