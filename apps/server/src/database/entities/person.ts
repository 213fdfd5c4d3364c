import { Column, Entity, PrimaryGeneratedColumn } from 'typeorm';
import type { Role } from '@stem-trace/contract';

@Entity('person')
export class Person {
  @PrimaryGeneratedColumn('identity', { type: 'bigint' })
  id!: string;

  @Column('text', { unique: true })
  login!: string;

  @Column('text')
  name!: string;

  @Column('text')
  initials!: string;

  @Column('text')
  role!: Role;

  @Column('boolean', { name: 'is_active', default: true })
  isActive!: boolean;

  @Column('text', { name: 'password_hash' })
  passwordHash!: string;
}
