// What the service tells, once something went out (hawthorn webhook add "This site" --url http://…/changed).
import { env } from "$env/dynamic/private";
import { changed } from "$lib/server/hawthorn";
import { Webhook } from "standardwebhooks";
import type { RequestHandler } from "./$types";

export const POST: RequestHandler = async ({ request }) => {
  if (!env.HAWTHORN_SECRET) return new Response(null, { status: 404 });
  const body = await request.text();
  try {
    new Webhook(env.HAWTHORN_SECRET).verify(body, Object.fromEntries(request.headers));
  } catch {
    return new Response(null, { status: 401 });
  }
  const { data = {} } = JSON.parse(body) as { data?: { groups?: string[]; more?: boolean } };
  changed(data.groups ?? [], !!data.more || !data.groups);
  return new Response(null, { status: 204 });
};
