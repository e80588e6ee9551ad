declare global {
  namespace App {
    interface Locals {
      who: import("$lib/server/hawthorn").Asking;
      page?: { id: string; lang: string };
    }
  }
}

export {};
