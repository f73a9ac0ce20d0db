-- A delivery is carried out part by part, by any number of workers on any number of machines.

-- number: by which a part is locked; bytes: of memory that carrying it out is expected to take
-- machine: where it runs; clearing: it was cancelled, and its worker still clears up after itself
-- small: of a delivery of few parts, which somebody waits for; they go before the others
-- removes: files of an earlier delivery that this one does not have are removed
-- anew: every file is made, also one that would come out the same
-- stamps: of each file, as they were once it lay there whole; while they are the same, so are its bytes
-- written, kept: how many files were made, and how many stayed as they were
alter table delivery_part
  add column number integer generated always as identity unique,
  add column state text not null default 'queued'
    check (state in ('queued', 'running', 'done', 'failed', 'cancelled')),
  add column progress real not null default 0,
  add column step text not null default '',
  add column error text,
  add column attempts integer not null default 0,
  add column started_at timestamptz,
  add column finished_at timestamptz,
  add column bytes bigint not null default 0,
  add column machine text not null default '',
  add column clearing boolean not null default false,
  add column small boolean not null default true,
  add column removes boolean not null default false,
  add column anew boolean not null default false,
  add column written integer not null default 0,
  add column kept integer not null default 0,
  add column stamps json;

update delivery_part p set
  state = case when p.manifest is not null then 'done'
    when d.state = 'running' then 'queued' when d.state = 'done' then 'failed' else d.state end,
  progress = case when p.manifest is not null then 1 else 0 end,
  error = d.error, started_at = d.started_at, finished_at = d.finished_at
from delivery d where d.id = p.delivery_id;

-- In the order in which they are carried out.
create index delivery_part_waits on delivery_part (small desc, delivery_id, n)
  where state = 'queued';
create index delivery_part_runs on delivery_part (machine) where state = 'running';
create index delivery_part_open on delivery_part (delivery_id, n)
  where state in ('queued', 'running');
create index delivery_part_in_hand on delivery_part (delivery_id, n)
  where state = 'running' or clearing;
create index delivery_part_into on delivery_part (folder, finished_at desc);

drop index delivery_unfinished;
alter table delivery
  drop column state, drop column progress, drop column step, drop column error,
  drop column cancel_requested, drop column attempts, drop column started_at,
  drop column finished_at;

-- How far each delivery is. A part counts as much as it is expected to cost.
create view delivery_now as
select d.id, d.project_id, d.created_at,
  case
    when p.running > 0 then 'running'
    when p.queued = p.parts then 'queued'
    when p.queued > 0 then 'running'
    when p.failed > 0 then 'failed'
    when p.cancelled > 0 then 'cancelled'
    else 'done'
  end as state,
  p.parts, p.queued, p.running, p.done, p.failed, p.cancelled, p.progress, p.step,
  p.started_at, case when p.queued + p.running = 0 then p.finished_at end as finished_at
from delivery d cross join lateral (
  select count(*) as parts,
    count(*) filter (where state = 'queued') as queued,
    count(*) filter (where state = 'running') as running,
    count(*) filter (where state = 'done') as done,
    count(*) filter (where state = 'failed') as failed,
    count(*) filter (where state = 'cancelled') as cancelled,
    coalesce(sum(case when state = 'done' then 1 else progress end * greatest(bytes, 1))
      / sum(greatest(bytes, 1)), 1)::real as progress,
    coalesce(min(step) filter (where state = 'running'), '') as step,
    min(started_at) as started_at, max(finished_at) as finished_at
  from delivery_part where delivery_id = d.id
) p;
