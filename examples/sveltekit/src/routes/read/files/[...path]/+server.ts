// Files and pictures, in parts too, as the service sends them: it says for how long they may be kept.
import { below, headers, service, stage } from "$lib/server/hawthorn";
import type { RequestHandler } from "./$types";

const GIVEN_ON = ["accept-ranges", "cache-control", "content-disposition", "content-length", "content-range", "content-security-policy", "content-type", "etag", "last-modified", "location"];

export const GET: RequestHandler = async ({ params, request, locals, fetch }) => {
  const path = below(params.path);
  if (!path) return new Response(null, { status: 404 });
  const asked = locals.who.preview ? `?preview=${encodeURIComponent(locals.who.preview)}` : stage() ? `?stage=${encodeURIComponent(stage())}` : "";
  const conditions = ["range", "if-none-match", "if-range"].flatMap((name) => (request.headers.has(name) ? [[name, request.headers.get(name)!]] : []));
  const found = await fetch(`${service()}/read/files/${path}${asked}`, {
    headers: { ...headers(locals.who), ...Object.fromEntries(conditions) },
    redirect: "manual",
  });
  const said = GIVEN_ON.flatMap((name) => (found.headers.has(name) ? [[name, found.headers.get(name)!]] : []));
  return new Response(found.body, { status: found.status, headers: Object.fromEntries(said) });
};
