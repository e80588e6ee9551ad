import { api, Problem, sure, type FileValue } from "../api";
import { toasts } from "./toasts.svelte";

/** One file on its way. */
export class Sending {
  name: string;
  part = $state(0);
  state = $state<"going" | "stopped" | "done" | "refused">("going");
  error = $state.raw<unknown>(null);
  #again: () => void = () => {};
  #stop: () => void = () => {};

  constructor(name: string) {
    this.name = name;
  }

  steer(again: () => void, stop: () => void): void {
    this.#again = again;
    this.#stop = stop;
  }

  stop(): void {
    this.#stop();
    this.state = "stopped";
  }

  goOn(): void {
    this.state = "going";
    this.error = null;
    this.#again();
  }
}

/**
 * Send a file in parts; one that was broken off, here or on an earlier day in this browser, goes on where it stopped. What
 * the service makes of it comes back as the value for a file field.
 */
export async function send(file: File, sending: Sending): Promise<FileValue> {
  const { Upload } = await import("tus-js-client");
  return new Promise((done, fail) => {
    const upload = new Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: 4 * 1024 * 1024,
      retryDelays: [300, 1000, 3000, 5000],
      metadata: { filename: file.name },
      removeFingerprintOnSuccess: true,
      onProgress: (sent, all) => (sending.part = all ? sent / all : 0),
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        return status === 0 || status === 409 || status >= 500;
      },
      onError: (error) => {
        const answer = "originalResponse" in error ? error.originalResponse : null;
        const status = answer?.getStatus() ?? 0;
        sending.error = status
          ? new Problem(status, said(answer?.getBody()))
          : new Problem(0, { detail: error.message });
        sending.state = status >= 400 && status < 500 ? "refused" : "stopped";
        if (sending.state === "refused") fail(sending.error as Error);
      },
      onSuccess: async () => {
        const id = upload.url?.split("/").at(-1) ?? "";
        try {
          const found = await sure(api.GET("/api/uploads/{id}", { params: { path: { id } } }));
          sending.part = 1;
          sending.state = "done";
          if (found.note) toasts.say(found.note);
          if (found.file) done(found.file as FileValue);
        } catch (error) {
          fail(error as Error);
        }
      },
    });
    sending.steer(
      () => upload.start(),
      () => void upload.abort(),
    );
    void upload.findPreviousUploads().then((earlier) => {
      const last = earlier.at(-1);
      if (last) upload.resumeFromPreviousUpload(last);
      upload.start();
    });
  });
}

function said(body: string | undefined): Record<string, unknown> {
  try {
    return JSON.parse(body ?? "") as Record<string, unknown>;
  } catch {
    return {};
  }
}

/** The type of the library whose entries hold such a file. */
export function typeFor(mediaType: string): string {
  if (mediaType.startsWith("image/")) return "picture";
  return /^(audio|video)\//.test(mediaType) ? "media" : "document";
}
