import { menu, service, stage } from "$lib/server/hawthorn";
import type { LayoutServerLoad } from "./$types";

const LOCALES = ["en", "fr", "de", "ja", "ar"];

export const load: LayoutServerLoad = async ({ url, locals }) => {
  const first = url.pathname.split("/")[1];
  const locale = LOCALES.includes(first) ? first : "en";
  locals.page ??= { id: "", lang: locale };
  return { locale, menu: await menu(locale, locals.who), service: service(), stage: stage(), preview: locals.who.preview };
};
