<script lang="ts">
  import type { Component } from "svelte";
  import type { Entry, FieldSpec, Present } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import type { Mark } from "../../../lib/state/preview.svelte";
  import { chosenIn, commentsHere } from "../../../lib/state/comments.svelte";
  import Canonical from "../../delivery/Canonical.svelte";
  import RegionField from "./RegionField.svelte";
  import TextField from "./TextField.svelte";
  import type { FieldProps } from "./props";
  import Button from "../../../ui/Button.svelte";
  import Disclosure from "../../../ui/Disclosure.svelte";

  interface Props {
    spec: FieldSpec;
    entry: Entry;
    value: unknown;
    readonly: boolean;
    lacking: boolean;
    onType: (value: unknown) => void;
    version: number;
    within?: string;
    missing?: string[];
    /** Where the previewed page shows it. */
    places?: Mark[];
    onPlace?: (mark: string) => void;
    /** Who else is in this field. */
    here?: Present[];
  }
  let {
    spec,
    entry,
    value,
    readonly,
    lacking,
    onType,
    version,
    within = "field",
    missing = [],
    places = [],
    onPlace = () => {},
    here = [],
  }: Props = $props();

  /** The editor component of each field kind: the one that has its name. */
  const editors = Object.fromEntries(
    Object.entries(
      import.meta.glob<{ default: Component<FieldProps> }>("./kinds/*.svelte", { eager: true }),
    ).map(([path, module]) => [path.replace(/^.*\/|\.svelte$/g, ""), module.default]),
  );
  const Editor = $derived(editors[spec.kind] ?? TextField);
  const id = $derived(`${within}-${spec.name}`);
  const nested = $derived(within !== "field");
  const comments = commentsHere();
  const said = $derived(comments && !nested ? comments.on(spec.name) : []);
  const source = $derived(nested ? undefined : entry.source_fields[spec.name]);
  const stands = $derived(!nested && !value ? (entry.derived[spec.name] ?? "") : "");
</script>

<div class="flex flex-col gap-1" data-field={nested ? undefined : spec.name}>
  <div class="flex flex-wrap items-baseline gap-x-2">
    <label for={id} id="{id}-label" class={nested ? "text-sm font-semibold" : "font-semibold"}
      >{spec.label}</label
    >
    {#if spec.required}<span class="text-sm {lacking ? 'font-semibold text-straw' : 'text-moss'}"
        >{t("entry.required")}</span
      >{/if}
    {#if comments && !nested && entry.exists && !entry.at}
      <span class="ms-auto flex items-baseline gap-2 text-sm">
        {#each here as one (one.page)}<span class="rounded bg-wash px-1.5 text-slate"
            >{t(one.typing ? "here.typesHere" : "here.inHere", { who: one.name })}</span
          >{/each}
        {#if said.length}<Button look="link" data-handle onclick={() => comments.show(said[0]!.id)}
            >{t("comments.count", { count: said.length })}</Button
          >{/if}
        <Button
          look="quiet"
          data-handle
          class="-me-2 text-moss"
          onmousedown={(event) => event.preventDefault()}
          onclick={() => comments.begin(spec.name, chosenIn(document.getElementById(id)))}
          >{t("comments.comment")}<span class="sr-only">
            {t("comments.on", { field: spec.label })}</span
          ></Button
        >
      </span>
    {/if}
    {#if spec.shared && !nested}<span class="rounded bg-wash px-1.5 text-sm text-moss"
        >{t("entry.sharedMark")}</span
      >{/if}
  </div>
  {#if places.length}
    <ul
      class="flex flex-wrap items-center gap-1 text-sm"
      aria-label={t("preview.places", { field: spec.label })}
    >
      <li class="text-moss" aria-hidden="true">{t("preview.shownAt")}</li>
      {#each places as one, n (`${one.mark} ${n}`)}
        <li>
          <Button look="link" class="rounded bg-wash px-1.5" onclick={() => onPlace(one.mark)}
            >{one.name}</Button
          >
        </li>
      {/each}
    </ul>
  {/if}
  {#if spec.region && !nested}
    <RegionField {spec} {entry} {value} {readonly} {onType}
      ><Editor {spec} {entry} {value} {readonly} {onType} {id} {version} /></RegionField
    >
  {:else}
    <Editor {spec} {entry} {value} {readonly} {onType} {id} {version} />
  {/if}
  {#if stands}<p class="text-sm text-moss" lang={entry.locale} dir="auto">
      {t("entry.derived")} <span class="italic">{stands}</span>
    </p>{/if}
  {#if missing.length}<p class="text-sm font-semibold text-straw">
      {t("entry.missing", { what: missing.join(", ") })}
    </p>{/if}
  {#if spec.help}<p id="{id}-help" class="text-sm text-moss"><bdi>{spec.help}</bdi></p>{/if}
  {#if source && !spec.shared && (spec.kind === "line" || spec.kind === "text" || spec.kind === "rich")}
    <Disclosure title={`${t("entry.sourceText")} (${entry.source_locale})`} class="text-sm" open>
      <div class="prose-text border-s-2 ps-3 text-moss" lang={entry.source_locale}>
        {#if spec.kind === "rich"}<Canonical html={String(source)} />{:else}{source}{/if}
      </div>
    </Disclosure>
  {/if}
</div>
