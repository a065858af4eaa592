import { Op, type Sequelize } from 'sequelize';
import { MaterialRow } from './models.ts';

const WEEK = 7 * 24 * 3600 * 1000;

/**
 * Drops what can be had back for a week and was not: deleted materials, and the bytes of pictures and meshes that
 * nothing has used since.
 */
export async function purge(sequelize: Sequelize, now: Date): Promise<void> {
  const before = new Date(now.getTime() - WEEK);
  await MaterialRow.destroy({ where: { deletedAt: { [Op.lt]: before } } });
  await sequelize.query('DELETE FROM blobs WHERE unusedSince < ?', { replacements: [before.toISOString()] });
}
