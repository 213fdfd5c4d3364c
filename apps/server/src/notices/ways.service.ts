import { Injectable } from '@nestjs/common';
import {
  NOTICE_KINDS,
  type NoticeSetting,
  type NoticeSettingAnswer,
  type NoticeWay,
} from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { json, orNull, readRow, text } from '../database/read-rows.js';
import { MailService } from './mail.service.js';

/** How people want to be told. */
@Injectable()
export class WaysService {
  constructor(
    private readonly database: DataSource,
    private readonly mails: MailService,
  ) {}

  async of(person: Person): Promise<NoticeSettingAnswer> {
    const { ways, ...row } = await readRow(
      this.database,
      { mail: text, ways: json<Partial<Record<string, NoticeWay>>>(), problem: orNull(text) },
      'SELECT mail, notice_ways AS ways, mail_problem AS problem FROM person WHERE id = $1',
      [person.id],
    );
    return {
      ...row,
      ways: Object.fromEntries(
        NOTICE_KINDS.map((kind) => [kind, ways[kind] ?? 'desk']),
      ) as NoticeSetting['ways'],
      isSent: this.mails.isSent,
    };
  }

  async set({ mail, ways }: NoticeSetting, person: Person): Promise<NoticeSettingAnswer> {
    await this.database.query('UPDATE person SET mail = $2, notice_ways = $3 WHERE id = $1', [
      person.id,
      mail,
      JSON.stringify(ways),
    ]);
    return this.of(person);
  }
}
