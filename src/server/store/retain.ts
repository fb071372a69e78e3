import { pool } from "../db/connection";

const ROWS_A_STATEMENT = 200_000;

/** Deletes samples older than `before`, in portions, so that nobody waits for one long transaction. */
export async function retainSince(before: number): Promise<number> {
  let deleted = 0;
  for (;;) {
    const { rowCount } = await pool().query(
      `DELETE FROM sample WHERE ctid = ANY(ARRAY(SELECT ctid FROM sample WHERE time < $1 LIMIT ${ROWS_A_STATEMENT}))`,
      [before],
    );
    deleted += rowCount ?? 0;
    if ((rowCount ?? 0) < ROWS_A_STATEMENT) return deleted;
  }
}
