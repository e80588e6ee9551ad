/** Something that is done from a page: whether it is under way, and what went wrong. `after` shows what became of it. */
export class Acting {
  busy = $state(false);
  error = $state<unknown>(null);

  constructor(private readonly after: () => Promise<unknown>) {}

  /** Do it; says whether it worked. */
  do = async (does: () => Promise<unknown>): Promise<boolean> => {
    this.busy = true;
    this.error = null;
    try {
      await does();
      await this.after();
      return true;
    } catch (caught) {
      this.error = caught;
      return false;
    } finally {
      this.busy = false;
    }
  };
}
