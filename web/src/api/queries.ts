import { type InvalidateQueryFilters, QueryClient, type QueryKey } from "@tanstack/react-query";

/**
 * What a page has read, and reads anew. What is said to have changed while it is read for the first time is read again
 * afterwards: the library lets such a reading go on and takes what it brings for new, though the server may have answered
 * before the change, and a page opened in that moment would stay as it was until something else happened.
 */
export class Queries extends QueryClient {
  private readonly again = new Set<string>();

  override async invalidateQueries<K extends QueryKey = QueryKey>(
    filters?: InvalidateQueryFilters<K>,
    options?: Parameters<QueryClient["invalidateQueries"]>[1],
  ): Promise<void> {
    const first = this.getQueryCache()
      .findAll(filters as InvalidateQueryFilters | undefined)
      .filter((query) => query.state.fetchStatus !== "idle" && query.state.data === undefined)
      .filter((query) => !this.again.has(query.queryHash));
    const readAgain = first.map(async ({ queryHash, queryKey, promise }) => {
      this.again.add(queryHash);
      await promise?.catch(() => undefined);
      this.again.delete(queryHash);
      await super.invalidateQueries({ queryKey, exact: true }, options);
    });
    await Promise.all([super.invalidateQueries(filters, options), ...readAgain]);
  }
}
