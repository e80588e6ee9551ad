import { Problem } from "../api";

export interface Toast {
  id: number;
  text: string;
  remedy: string;
  wrong: boolean;
  offer?: { label: string; does: () => void };
}

/** Short messages in a live region; what went wrong stays until it is closed. */
class Toasts {
  list = $state<Toast[]>([]);
  #next = 1;

  say(text: string): void {
    const id = this.#add(text, "", false);
    setTimeout(() => this.close(id), 6000);
  }

  /** Say something with a way to undo it. */
  offer(text: string, label: string, does: () => void): void {
    const id = this.#add(text, "", false, { label, does });
    setTimeout(() => this.close(id), 15000);
  }

  wrong(error: unknown): void {
    if (error instanceof Problem) this.#add(error.message, error.remedy, true);
    else this.#add(String(error), "", true);
  }

  close(id: number): void {
    this.list = this.list.filter((toast) => toast.id !== id);
  }

  #add(text: string, remedy: string, wrong: boolean, offer?: Toast["offer"]): number {
    const id = this.#next++;
    this.list = [...this.list.slice(-3), { id, text, remedy, wrong, offer }];
    return id;
  }
}

export const toasts = new Toasts();
