<script lang="ts">
  import {
    BarController,
    BarElement,
    CategoryScale,
    Chart,
    Legend,
    LinearScale,
    LineController,
    LineElement,
    PointElement,
    Tooltip,
  } from "chart.js";
  import { onMount } from "svelte";
  import { marks, type Series } from "./series";

  /** A drawing of some series over weeks. Lines differ in their dashes and the shapes of their points, bars in their hatching, and not in colour alone. */
  interface Props {
    kind: "line" | "bar";
    label: string;
    weeks: string[];
    series: Series[];
    /** How a number of the scale is said. */
    said: (value: number) => string;
    /** How far the lines of the scale are apart; left to the drawing where nothing is said. */
    step?: number | undefined;
    onChoose: (week: number, series: number) => void;
  }
  let { kind, label, weeks, series, said, step, onChoose }: Props = $props();
  let place: HTMLCanvasElement;
  let chart: Chart | undefined;

  Chart.register(
    BarController,
    BarElement,
    CategoryScale,
    Legend,
    LinearScale,
    LineController,
    LineElement,
    PointElement,
    Tooltip,
  );

  function draw(): void {
    chart?.destroy();
    const of = getComputedStyle(place);
    const colour = (name: string) => of.getPropertyValue(`--${name}`).trim();
    const [ink, line] = [colour("ink"), colour("line")];
    chart = new Chart(place, {
      type: kind,
      data: {
        labels: weeks,
        datasets: series.map((one, n) => ({ label: one.name, data: one.values, ...marks(kind, n, colour) })),
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        interaction: { mode: "nearest", intersect: true },
        onClick: (_, [hit]) => hit && onChoose(hit.index, hit.datasetIndex),
        font: { family: of.fontFamily },
        scales: {
          x: { ticks: { color: ink, maxRotation: 0, autoSkipPadding: 12 }, grid: { display: false } },
          y: {
            beginAtZero: true,
            ticks: {
              color: ink,
              maxTicksLimit: 6,
              ...(step ? { stepSize: step } : {}),
              callback: (value) => (Number(value) ? said(Number(value)) : "0"),
            },
            grid: { color: line },
          },
        },
        plugins: {
          legend: {
            display: series.length > 1,
            position: "bottom",
            align: "start",
            labels: { color: ink, usePointStyle: kind === "line", boxHeight: 8 },
          },
          tooltip: {
            callbacks: { label: (item) => `${item.dataset.label}: ${said(Number(item.parsed.y))}` },
          },
        },
      },
    });
  }

  $effect(() => {
    void [kind, weeks, series, said, step];
    draw();
  });
  onMount(() => {
    // The dark has other colours, and a drawing does not follow styles.
    const watcher = new MutationObserver(draw);
    watcher.observe(document.documentElement, { attributeFilter: ["class"] });
    return () => {
      watcher.disconnect();
      chart?.destroy();
    };
  });
</script>

<div class="h-56" role="img" aria-label={label}><canvas bind:this={place}></canvas></div>
