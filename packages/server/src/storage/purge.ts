import { Op } from 'sequelize';
import type { Database } from './database.ts';

const HOUR = 3600 * 1000;
const DAY = 24 * HOUR;
const WEEK = 7 * DAY;

/**
 * Drops what can be had back for a week and was not: deleted materials, and the bytes of pictures and meshes that
 * nothing has used since.
 */
export async function purge({ materials, sequelize }: Database, now: Date): Promise<void> {
  const before = new Date(now.getTime() - WEEK);
  await materials.destroy({ where: { deletedAt: { [Op.lt]: before } } });
  await sequelize.query('DELETE FROM blobs WHERE unusedSince < ?', { replacements: [before.toISOString()] });
}

/**
 * Thins out the revisions of materials: all of the last hour stay, one a minute of the last day, one an hour before
 * that; of each span the newest. Named ones stay, and so do the first and the newest of a material.
 */
export async function thinRevisions({ sequelize }: Database, now: Date): Promise<void> {
  const before = (by: number): string => new Date(now.getTime() - by).toISOString();
  // The span a revision falls into, told by the beginning of its moment: to the hour, to the minute, or to itself.
  await sequelize.query(
    `DELETE FROM revisions WHERE id IN (
       SELECT id FROM (
         SELECT r.id, r.name, r.number, m.revision AS newest,
           ROW_NUMBER() OVER (
             PARTITION BY r.materialId, CASE
               WHEN datetime(r.createdAt) >= datetime(:hour) THEN r.id
               WHEN datetime(r.createdAt) >= datetime(:day) THEN strftime('%Y-%m-%dT%H:%M', r.createdAt)
               ELSE strftime('%Y-%m-%dT%H', r.createdAt)
             END
             ORDER BY r.number DESC
           ) AS place
         FROM revisions r JOIN materials m ON m.id = r.materialId
       ) WHERE place > 1 AND name = '' AND number > 1 AND number < newest
     )`,
    { replacements: { hour: before(HOUR), day: before(DAY) } },
  );
}
