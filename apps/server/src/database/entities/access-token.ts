import { Column, Entity, JoinColumn, ManyToOne, PrimaryColumn, type Relation } from 'typeorm';
import type { TokenScope } from '@stem-trace/contract';
import { Person } from './person.js';

/** A signed-in browser or a program; only the hash of its token is kept. */
@Entity('access_token')
export class AccessToken {
  @PrimaryColumn('bytea', { name: 'token_hash' })
  tokenHash!: Buffer;

  @Column('bigint', { name: 'person_id' })
  personId!: string;

  @ManyToOne(() => Person)
  @JoinColumn({ name: 'person_id' })
  person!: Relation<Person>;

  @Column('text')
  kind!: 'session' | 'program';

  @Column('text')
  name!: string;

  @Column('text')
  scope!: TokenScope;

  @Column('timestamptz', { name: 'expires_at', nullable: true })
  expiresAt!: Date | null;
}
