<script lang="ts">
  import "../../../messages/figures";
  import { t, when } from "../../../lib/i18n";
  import { session } from "../../../lib/state/session.svelte";
  import Button from "../../../ui/Button.svelte";
  import Modal from "../../../ui/Modal.svelte";
  import Trouble from "../../../ui/Trouble.svelte";
  import Waiting from "../../../ui/Waiting.svelte";
  import { behindQuery, type FiguresAsked } from "../queries";
  import { span, type Wanted } from "./series";

  /** The entries that a number stands for. */
  let { wanted, asked, onClose }: { wanted: Wanted; asked: FiguresAsked; onClose: () => void } = $props();
  let many = $state(1);
  const found = behindQuery(
    () => wanted,
    () => asked,
    () => many,
  );
  let open = $state(true);
</script>

<Modal bind:open title={wanted.title} size="lg" onclose={onClose}>
  {#if found.error}<Trouble error={found.error} />
  {:else if !found.data}<Waiting />
  {:else}
    <ul class="flex flex-col gap-2" aria-label={wanted.title}>
      {#each found.data.items as one, n (n)}
        <li class="border-b pb-2 last:border-0">
          <a class="font-semibold" href="/entries/{one.id}/{one.locale}">{one.title}</a>
          <span class="text-sm text-moss"
            >{session.type(one.type)?.label ?? one.type} · {session.locale(one.locale)?.name ??
              one.locale}</span
          >
          <span class="block text-sm">
            {#if wanted.figure === "release"}{t("figures.wentOut", { when: when(one.came), who: one.by })}
            {:else}
              {one.label}: {span(one.seconds)}, {t("figures.since", { when: when(one.came) })}
              {#if one.how && wanted.figure !== "following"}– {t(`figures.how.${one.how.replace(" ", "_")}`, {
                  who: one.by,
                  when: when(one.went ?? one.came),
                })}{/if}
            {/if}
          </span>
          {#if one.reason}<q class="text-sm text-moss">{one.reason}</q>{/if}
        </li>
      {:else}<li class="text-moss">{t("figures.none")}</li>{/each}
    </ul>
    {#if found.data.next}<Button onclick={() => many++}>{t("list.more")}</Button>{/if}
  {/if}
</Modal>
