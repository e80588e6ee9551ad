<script lang="ts">
  import type { Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Progress from "../../ui/Progress.svelte";

  interface Props {
    entry: Entry;
    /** What is being typed, laid over what is saved. */
    value: (field: string) => unknown;
  }
  let { entry, value }: Props = $props();
  const found = $derived(entry.search);
  const kind = $derived(session.type(entry.type));
  const room = { title: 60, description: 160 };

  function typed(role: "title" | "description" | "picture"): string {
    const field = found?.fields[role];
    const own = field ? value(field) : "";
    if (typeof own === "string" && own) return own;
    if (role === "title") {
      const title = value(kind?.title ?? "title");
      return typeof title === "string" ? title : "";
    }
    return role === "description" ? (found?.description ?? "") : (found?.picture ?? "");
  }

  /** Half a width each; characters of full width take two. */
  function width(text: string): number {
    return [...text].reduce(
      (sum, one) =>
        sum +
        (/[\u1100-\u115f\u2e80-\ua4cf\uac00-\ud7a3\uf900-\ufaff\ufe30-\ufe6f\uff00-\uff60\uffe0-\uffe6]/.test(
          one,
        )
          ? 2
          : 1),
      0,
    );
  }
  const title = $derived(typed("title"));
  const description = $derived(typed("description"));
  const picture = $derived(entry.references[typed("picture")]?.file ?? "");
  const address = $derived(`${session.setup?.site ?? ""}${entry.path ?? ""}`.replace(/^https?:\/\//, ""));
  const counters = $derived([
    { key: "title", text: title, room: room.title },
    { key: "description", text: description, room: room.description },
  ]);
</script>

{#if found}
  <div class="flex flex-col gap-4">
    <section aria-labelledby="search-example">
      <h2 id="search-example" class="pb-2 font-semibold">{t("search.example")}</h2>
      <div class="sheet max-w-xl p-4" lang={entry.locale} dir="auto">
        <p class="text-sm break-all text-moss">{address || t("search.noAddress")}</p>
        <p class="text-lg text-slate">{title || t("list.untitled")}</p>
        <p class="text-sm">{description || t("search.noDescription")}</p>
      </div>
    </section>
    <section aria-labelledby="share-example">
      <h2 id="share-example" class="pb-2 font-semibold">{t("search.shared")}</h2>
      <div class="sheet max-w-sm overflow-hidden" lang={entry.locale} dir="auto">
        {#if picture}<img src="/api/files/{picture}" alt="" class="aspect-[1200/630] w-full object-cover" />
        {:else}<p class="flex aspect-[1200/630] items-center justify-center bg-wash text-moss">
            {t("search.noPicture")}
          </p>{/if}
        <div class="p-3">
          <p class="font-semibold">{title || t("list.untitled")}</p>
          <p class="text-sm text-moss">{description}</p>
        </div>
      </div>
    </section>
    <dl class="grid max-w-xl grid-cols-[auto_1fr] gap-x-3 gap-y-2">
      {#each counters as one (one.key)}
        {@const taken = width(one.text)}
        <dt>{t(`search.${one.key}`)}</dt>
        <dd class={taken > one.room ? "font-semibold text-straw" : ""}>
          {t("search.room", { taken, room: one.room })}
          <Progress
            class="ms-2 inline-block w-28 align-middle"
            value={taken}
            max={one.room}
            label={t(`search.${one.key}`)}
          />
        </dd>
      {/each}
    </dl>
    {#if found.checks.length}
      <section aria-labelledby="search-checks">
        <h2 id="search-checks" class="pb-1 font-semibold">{t("search.checks")}</h2>
        <ul class="list-disc ps-5">
          {#each found.checks as check, n (n)}
            <li>
              {check.text}
              {#each check.others as other (other.id)}
                <a class="me-2" href="/entries/{other.id}/{entry.locale}">{other.title}</a>{/each}
            </li>
          {/each}
        </ul>
      </section>
    {:else}<p class="text-moss">{t("search.well")}</p>{/if}
  </div>
{/if}
