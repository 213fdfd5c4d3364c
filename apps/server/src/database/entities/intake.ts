import { Column, Entity, PrimaryColumn, PrimaryGeneratedColumn } from 'typeorm';
import type { FetchManifest, IntakeResult, IntakeState } from '@stem-trace/contract';
import type { FileReading, RowCorrection } from '@stem-trace/core';

/** An intake sheet: one job of bringing files in, with what its review table says. */
@Entity('intake')
export class Intake {
  @PrimaryGeneratedColumn('uuid')
  id!: string;

  @Column('text')
  place!: string;

  @Column('text')
  prefix!: string;

  @Column('text')
  comment!: string;

  @Column('text')
  state!: IntakeState;

  @Column('jsonb')
  corrections!: Record<string, RowCorrection>;

  /** Of the working copy, where the files are one that comes back. */
  @Column('jsonb', { nullable: true })
  manifest!: FetchManifest | null;

  /** Keys of rows that may replace a newer version. */
  @Column('jsonb')
  overwrite!: string[];

  /** Whether holds are given up with the check-in. */
  @Column('boolean', { name: 'let_go' })
  letGo!: boolean;

  @Column('jsonb', { nullable: true })
  result!: IntakeResult | null;

  @Column('text', { nullable: true })
  failure!: string | null;

  /** The archive that the files come from, where they do. */
  @Column('text', { name: 'archive_sha256', nullable: true })
  archiveSha256!: string | null;

  @Column('bigint', { name: 'created_by' })
  createdBy!: string;
}

@Entity('intake_file')
export class IntakeFileRow {
  @PrimaryColumn('uuid', { name: 'intake_id' })
  intakeId!: string;

  @PrimaryColumn('text')
  path!: string;

  @Column('text')
  sha256!: string;

  @Column('bigint')
  size!: string;

  @Column('jsonb', { nullable: true })
  reading!: FileReading | null;

  @Column('jsonb', { nullable: true })
  problem!: { line: number; reason: string } | null;

  @Column('text', { name: 'passed_over', nullable: true })
  passedOver!: string | null;
}
