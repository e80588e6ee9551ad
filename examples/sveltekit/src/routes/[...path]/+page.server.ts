import { below, headers, outline, read, service, stage, type Head, type Shown } from "$lib/server/hawthorn";
import { error, fail, redirect } from "@sveltejs/kit";
import type { Actions, PageServerLoad } from "./$types";

const carried = (preview: string) => (preview ? `?preview=${encodeURIComponent(preview)}` : "");

export const load: PageServerLoad = async ({ params, locals, request }) => {
  const who = locals.who;
  if (!params.path) {
    const accepts = request.headers.get("accept-language") ?? "";
    const found = await fetch(`${service()}/read/outline?depth=0`, { headers: { "Accept-Language": accepts } });
    const first = found.ok ? (await found.json()).items[0]?.path : "";
    redirect(302, `${first || "/en"}${carried(who.preview)}`);
  }
  const path = below(params.path);
  const found = path ? await read<Shown>(`/read/pages/${path}`, { groups: "true" }, who) : null;
  if (found?.status === 301) redirect(301, new URL(found.location, service()).pathname.replace("/read/pages", "") + carried(who.preview));
  if (found?.status !== 200) error(404, "Not here");
  const entry = found.body;
  locals.page = { id: entry.id, lang: entry.locale };
  const head = await read<Head>(`/read/entries/${entry.id}/head`, { locale: entry.locale }, who, entry.groups);
  const branches = ["gallery", "page"].includes(entry.type) ? await outline({ below: entry.id, locale: entry.locale, depth: "1" }, who) : [];
  return { entry, head: head.status === 200 ? head.body : null, below: branches };
};

export const actions: Actions = {
  // A phrase for a locked page; what it opens stays with the browser until that is closed.
  default: async ({ params, request, cookies, locals, getClientAddress }) => {
    const found = await read<Shown>(`/read/pages/${below(params.path)}`, {}, { ...locals.who, opened: "" });
    if (stage() || found.status !== 200) error(404, "Not here");
    const phrase = String((await request.formData()).get("phrase") ?? "").slice(0, 200);
    const tried = await fetch(`${service()}/read/entries/${found.body.id}/unlock`, {
      method: "POST",
      headers: { "Content-Type": "application/json", ...headers({ preview: "", opened: "" }) },
      body: JSON.stringify({ phrase, visitor: getClientAddress() }),
    });
    const said = await tried.json();
    if (tried.status === 429) return fail(429, { wrong: said.remedy as string });
    if (!tried.ok) return fail(422, { wrong: "That is not the phrase. Ask whoever gave it to you." });
    const opened = [said.token, ...locals.who.opened.split(", ")].filter(Boolean).slice(0, 10).join(", ");
    cookies.set("opened", opened, { path: "/", httpOnly: true, sameSite: "lax" });
    redirect(303, `/${params.path}`);
  },
};
