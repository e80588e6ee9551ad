<script lang="ts">
  import "../../messages/setup";
  import Trouble from "../../ui/Trouble.svelte";
  import { api, sure, type LocaleAsk } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { ownName } from "../../lib/languages";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Handle from "../../ui/Handle.svelte";
  import Sortable from "../../ui/Sortable.svelte";
  import Select from "../../ui/Select.svelte";

  const may = $derived(session.may("configure"));
  function now(): Required<LocaleAsk>[] {
    return (session.setup?.locales ?? []).map(({ tag, name, direction, fallback }) => ({
      tag,
      name,
      direction: direction ?? "",
      fallback: [...(fallback ?? [])],
    }));
  }
  let locales = $state(now());
  let tag = $state("");
  let busy = $state(false);
  const moved = $derived(JSON.stringify(locales) !== JSON.stringify(now()));
  // What it would do is said while it is put together.
  const check = whileTyped(
    () => (moved ? { locales: $state.snapshot(locales) } : null),
    (body) => sure(api.POST("/api/locales/check", { body })),
    { pause: 250, keeps: true },
  );
  const changes = $derived(moved ? (check.found?.changes ?? []) : []);
  const held = $derived(changes.filter((one) => one.in_the_way));

  function add(event: SubmitEvent): void {
    event.preventDefault();
    const wanted = tag.trim();
    if (!wanted || locales.some((one) => one.tag.toLowerCase() === wanted.toLowerCase())) return;
    locales.push({ tag: wanted, name: ownName(wanted), direction: "", fallback: [] });
    tag = "";
  }

  function end(n: number): void {
    const gone = locales[n]!.tag;
    locales.splice(n, 1);
    for (const one of locales) one.fallback = one.fallback.filter((other) => other !== gone);
  }

  function move(n: number, by: number): void {
    const [one] = locales.splice(n, 1);
    locales.splice(n + by, 0, one!);
  }

  async function keep(): Promise<void> {
    busy = true;
    check.wrong(null);
    try {
      await sure(api.PUT("/api/locales", { body: { locales: $state.snapshot(locales) } }));
      await session.look();
      locales = now();
      toasts.say(t("languages.kept"));
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }
</script>

<svelte:head><title>{t("languages.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("languages.title")}</h1>
<p class="max-w-3xl pb-4 text-moss">{t("languages.about")}</p>
{#if !may}<p class="pb-3 text-moss">{t("setUp.onlyLook")}</p>{/if}
<Sortable
  items={locales.map((one) => ({ id: one.tag, one }))}
  disabled={!may}
  named={(item) => item.one.name || item.id}
  class="flex max-w-4xl flex-col gap-3"
  within={() => "sheet flex flex-wrap items-end gap-3 p-3"}
  onOrder={(order) => (locales = order.map((item) => item.one))}
>
  {#snippet children({ one }, n)}
    {#if may}<Handle
        id={one.tag}
        label={t("blocks.handle", { what: one.name || one.tag, place: n + 1, count: locales.length })}
      />{/if}
    <span class="w-20 font-semibold">{one.tag}</span>
    <label class="flex min-w-40 flex-1 flex-col text-sm"
      >{t("languages.name")}<Input bind:value={one.name} readonly={!may} lang={one.tag} /></label
    >
    <label class="flex flex-col text-sm"
      >{t("languages.direction")}
      <Select bind:value={one.direction} disabled={!may}>
        <option value="">{t("languages.usual")}</option>
        <option value="ltr">{t("languages.ltr")}</option>
        <option value="rtl">{t("languages.rtl")}</option>
      </Select></label
    >
    <label class="flex flex-col text-sm"
      >{t("languages.fallback")}
      <Select
        disabled={!may}
        value={one.fallback[0] ?? ""}
        onchange={(event) => {
          const first = event.currentTarget.value;
          one.fallback = first ? [first, ...one.fallback.slice(1).filter((o) => o !== first)] : [];
        }}
      >
        <option value="">{t("languages.source")}</option>
        {#each locales.filter((other) => other.tag !== one.tag) as other (other.tag)}<option value={other.tag}
            >{other.name || other.tag}</option
          >{/each}
      </Select></label
    >
    {#if may}
      <span class="flex gap-1">
        <Button disabled={n === 0} onclick={() => move(n, -1)}
          >{t("languages.up")}<span class="sr-only"> {one.tag}</span></Button
        >
        <Button disabled={n === locales.length - 1} onclick={() => move(n, 1)}
          >{t("languages.down")}<span class="sr-only"> {one.tag}</span></Button
        >
        <Button disabled={locales.length === 1} onclick={() => end(n)}
          >{t("languages.end")}<span class="sr-only"> {one.tag}</span></Button
        >
      </span>
    {/if}
    {#if n === 0}<p class="w-full text-sm text-moss">{t("languages.first")}</p>{/if}
  {/snippet}
</Sortable>
{#if may}
  <form class="flex flex-wrap items-end gap-2 py-4" onsubmit={add}>
    <label class="flex flex-col text-sm"
      >{t("languages.tag")}<Input
        bind:value={tag}
        placeholder={t("languages.example")}
        dir="ltr"
        maxlength={35}
      />
    </label>
    <Button type="submit" disabled={!tag.trim()}>{t("languages.add")}</Button>
    {#if tag.trim() && ownName(tag)}<span class="pb-2 text-moss" lang={tag}>{ownName(tag)}</span>{/if}
  </form>
  {#if check.error}<div class="pb-4"><Trouble error={check.error} /></div>{/if}
  <div aria-live="polite">
    {#if changes.length}
      <h2 class="pb-1 font-semibold">{t("languages.would")}</h2>
      <ul class="flex max-w-3xl flex-col gap-1 pb-4">
        {#each changes as one (one.tag)}
          <li>
            <span class="font-semibold">{one.name}</span>
            {t(`languages.how.${one.how}`)}{one.editions
              ? `; ${t("languages.editions", { count: one.editions })}`
              : ""}
            {#if one.in_the_way}<span class="block text-straw">{one.in_the_way}</span>{/if}
          </li>
        {/each}
      </ul>
    {/if}
  </div>
  <div class="flex gap-2">
    <Button look="main" disabled={busy || !moved || held.length > 0} onclick={keep}
      >{t("languages.keep")}</Button
    >
    {#if moved}<Button onclick={() => (locales = now())}>{t("languages.undo")}</Button>{/if}
  </div>
{/if}
