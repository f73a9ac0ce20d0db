-- name: insert_delivery
insert into delivery (project_id) values (%(project_id)s) returning id

-- name: insert_part
insert into delivery_part
  (delivery_id, n, set_id, target_id, definition, preset, longer_side, folder, manifest_name, bytes, small,
  delete_obsolete, rewrite, state, progress, manifest, assay, kept, stamps,
  started_at, finished_at)
values (%(delivery_id)s, %(n)s, %(set_id)s, %(target_id)s, %(definition)s, %(preset)s,
  %(longer_side)s, %(folder)s, %(manifest_name)s, %(bytes)s, %(small)s, %(delete_obsolete)s, %(rewrite)s,
  case when %(manifest)s::json is null then 'queued' else 'done' end,
  case when %(manifest)s::json is null then 0 else 1 end, %(manifest)s, %(assay)s, %(kept)s,
  %(stamps)s,
  case when %(manifest)s::json is null then null else now() end,
  case when %(manifest)s::json is null then null else now() end)

-- name: list_deliveries
select * from delivery_now
where project_id = %(project_id)s and (%(before)s::bigint is null or id < %(before)s)
order by id desc limit %(most)s

-- name: under_way
-- Without their parts: many ask for it, and often. recent, span: what was done in the last minute
-- as a share of all, and in how many seconds.
select d.*, r.recent, r.span
from delivery_now d cross join lateral (
  select coalesce(sum(greatest(p.bytes, 1) * case when p.state = 'done' then 1 else p.progress end)
      filter (where p.state = 'running' or p.finished_at > now() - interval '1 minute'), 0)
      / sum(greatest(p.bytes, 1)) as recent,
    extract(epoch from least(now() - min(p.started_at), interval '1 minute')) as span
  from delivery_part p where p.delivery_id = d.id
) r
where d.project_id = %(project_id)s and d.id in (
  select delivery_id from delivery_part where state in ('queued', 'running')
) order by d.id desc

-- name: get_delivery
select * from delivery_now where id = %(id)s

-- name: list_parts
select p.delivery_id, p.n, p.number, p.set_id, p.target_id, p.definition, p.preset, p.longer_side,
  p.folder, p.manifest, p.assay, p.state, p.progress, p.step, p.error, p.attempts, p.delete_obsolete,
  p.rewrite, p.written, p.kept, p.manifest_name, p.small, pr.slug as project
from delivery_part p
  join delivery d on d.id = p.delivery_id join project pr on pr.id = d.project_id
where p.delivery_id = any(%(ids)s) order by p.delivery_id, p.n

-- name: light_parts
select delivery_id, n, set_id, definition ->> 'name' as set_name, target_id, folder, state, progress, step,
  error, written, kept
from delivery_part where delivery_id = any(%(ids)s) order by delivery_id, n

-- name: get_part
select p.delivery_id, p.n, p.number, p.set_id, p.target_id, p.definition, p.preset, p.longer_side,
  p.folder, p.manifest, p.assay, p.state, p.progress, p.step, p.error, p.attempts, p.delete_obsolete,
  p.rewrite, p.written, p.kept, p.manifest_name, p.small, pr.slug as project
from delivery_part p
  join delivery d on d.id = p.delivery_id join project pr on pr.id = d.project_id
where p.delivery_id = %(delivery_id)s and p.n = %(n)s

-- name: verified_in_folder
-- What was proven of the files that were delivered into a folder last.
select manifest, assay, stamps from delivery_part
where folder = %(folder)s and manifest_name = %(manifest_name)s
  and manifest is not null and assay is not null
order by finished_at desc nulls last limit 1

-- name: verified_in_folders
-- The same of many folders.
select distinct on (folder, manifest_name) folder, manifest_name, manifest, assay, stamps
from delivery_part
where folder = any(%(folders)s) and manifest is not null and assay is not null
order by folder, manifest_name, finished_at desc nulls last

-- name: latest_parts
-- For each set and target of a project, the newest part that was delivered whole, and whether the
-- set still reads as it did then.
select distinct on (p.set_id, p.target_id)
  p.set_id, p.target_id, p.definition_key = s.definition_key as same_set, p.preset_key,
  p.delivery_id, p.n, p.folder, p.manifest_name, s.name as set_name
from delivery_part p
  join delivery d on d.id = p.delivery_id
  join texture_set s on s.id = p.set_id
where d.project_id = %(project_id)s and s.project_id = d.project_id
  and p.manifest is not null and s.deleted_at is null
  and (%(ids)s::bigint[] is null or p.set_id = any(%(ids)s))
order by p.set_id, p.target_id, p.delivery_id desc

-- name: part_preset
select preset from delivery_part where delivery_id = %(delivery_id)s and n = %(n)s

-- name: find_by_idempotency_key
-- How often a set was asked for a target, before a delivery or in all.
select count(*) as n from delivery_part
where set_id = %(set_id)s and target_id = %(target_id)s
  and (%(before)s::bigint is null or delivery_id < %(before)s)

-- name: requested_parts
-- How often each set was asked for each target.
select set_id, target_id, count(*) as n from delivery_part
where set_id = any(%(ids)s) group by set_id, target_id

-- name: latest_requested
-- For each set and target of a project, the newest delivery that was asked of it.
select distinct on (p.set_id, p.target_id)
  p.set_id, p.target_id, p.delivery_id, p.state, p.progress, p.error
from delivery_part p
  join delivery d on d.id = p.delivery_id
  join texture_set s on s.id = p.set_id
where d.project_id = %(project_id)s and s.project_id = d.project_id and s.deleted_at is null
  and p.state <> 'cancelled'
order by p.set_id, p.target_id, p.delivery_id desc

-- name: latest_whole
-- For each of some sets and each target, the newest part that was delivered whole.
select distinct on (p.set_id, p.target_id)
  p.delivery_id, p.n, p.number, p.set_id, p.target_id, p.definition, p.preset, p.longer_side,
  p.folder, p.manifest, p.assay, p.state, p.progress, p.step, p.error, p.attempts, p.delete_obsolete,
  p.rewrite, p.written, p.kept, p.manifest_name, p.small, pr.slug as project
from delivery_part p
  join delivery d on d.id = p.delivery_id join project pr on pr.id = d.project_id
where d.project_id = %(project_id)s and p.set_id = any(%(ids)s) and p.manifest is not null
order by p.set_id, p.target_id, p.delivery_id desc

-- name: written_to
select delivery_id, n, folder, manifest_name, manifest from delivery_part
where folder = any(%(folders)s) and manifest is not null order by delivery_id desc

-- name: finished_since
-- The parts that were delivered since then, the newest of each folder.
select distinct on (folder, manifest_name) folder, manifest_name, finished_at from delivery_part
where state = 'done' and finished_at is not null
  and (%(since)s::timestamptz is null or finished_at > %(since)s)
order by folder, manifest_name, finished_at desc
