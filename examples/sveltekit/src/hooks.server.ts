import { service, stage } from "$lib/server/hawthorn";
import type { Handle } from "@sveltejs/kit";

export const handle: Handle = async ({ event, resolve }) => {
  event.locals.who = {
    // The public site does not look at what carries a preview.
    preview: stage() ? (event.url.searchParams.get("preview") ?? "") : "",
    opened: stage() ? "" : (event.cookies.get("opened") ?? ""),
  };
  const response = await resolve(event, {
    transformPageChunk: ({ html }) => {
      const { lang = "en", id } = event.locals.page ?? {};
      return html
        .replace("%lang%", lang)
        .replace("%dir%", lang === "ar" ? "rtl" : "ltr")
        .replace("%page%", stage() && id ? ` data-hawthorn-page="${id}/${lang}"` : "")
        // Links of a preview are plain ones: what the address carries goes along with them.
        .replace("%reload%", stage() ? " data-sveltekit-reload" : "");
    },
  });
  response.headers.set("Content-Security-Policy", `frame-ancestors ${service()}`);
  if (!response.headers.has("Cache-Control")) response.headers.set("Cache-Control", stage() ? "no-store" : "no-cache");
  return response;
};
