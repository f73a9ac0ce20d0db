-- Work that takes longer than a request may: what is asked for, how far it is, and what came of it.
-- The queue's own row only says that a job waits or runs; it refers to a job by its number.

-- progressed_at: when the progress changed last; by it the rest is estimated.
-- key: the same for equal work. arguments: of the job's kind. lane: jobs of one lane run one after the
-- other on a machine. attempts: how often it was begun; whoever holds an older attempt writes nothing.
-- error_code: as in answers of the API. result: what the job made, once it is done.
create table job (
  id bigint generated always as identity primary key,
  kind text not null,
  title text not null,
  project_id bigint references project on delete cascade,
  key text not null,
  arguments jsonb not null default '{}',
  lane text not null,
  priority integer not null default 0,
  state text not null default 'queued'
    check (state in ('queued', 'running', 'done', 'failed', 'cancelled')),
  attempts integer not null default 0,
  machine text,
  progress real not null default 0,
  progressed_at timestamptz,
  step text not null default '',
  error text,
  error_code text,
  result jsonb,
  created_at timestamptz not null default now(),
  started_at timestamptz,
  ended_at timestamptz
);
create unique index job_queued_key on job (key) where state = 'queued';
create index job_open on job (lane, priority desc, id) where state in ('queued', 'running');
create index job_key on job (key) where state in ('running', 'failed');
create index job_project_id on job (project_id);
create index job_ended_at on job (ended_at) where ended_at is not null;

-- The file that a job reads, until it is done.
create table job_file_chunk (
  job_id bigint not null references job on delete cascade,
  n integer not null,
  data bytea not null,
  primary key (job_id, n)
);
alter table job_file_chunk alter column data set storage external;
