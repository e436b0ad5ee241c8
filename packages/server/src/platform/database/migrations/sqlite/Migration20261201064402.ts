import { Migration } from '@mikro-orm/migrations';
import { visitsOfListsToLastVisits } from '../../lastVisits.ts';

export class Migration20261201064402 extends Migration {

  override async up(): Promise<void> {
    await visitsOfListsToLastVisits((sql, values) => this.execute(sql, values));
  }

}
