-- name: insert_delivery
insert into delivery (project_id) values (%(project_id)s) returning id

-- name: insert_part
insert into delivery_part
  (delivery_id, n, set_id, target_id, definition, preset, longer_side, folder)
values (%(delivery_id)s, %(n)s, %(set_id)s, %(target_id)s, %(definition)s, %(preset)s,
  %(longer_side)s, %(folder)s)

-- name: list_deliveries
select * from delivery where project_id = %(project_id)s order by id desc limit 200

-- name: under_way
-- Without their parts: many ask for it, and often.
select * from delivery
where project_id = %(project_id)s and state in ('queued', 'running') order by id desc

-- name: get_delivery
select * from delivery where id = %(id)s

-- name: list_parts
select delivery_id, n, set_id, target_id, definition, preset, longer_side, folder, manifest, assay
from delivery_part where delivery_id = any(%(ids)s) order by delivery_id, n

-- name: begin
update delivery set state = 'running', started_at = now(), attempts = attempts + 1, error = null
where id = %(id)s and state = 'queued' returning *

-- name: report
-- Tells in the same breath if a cancel was asked for.
update delivery set progress = %(progress)s, step = %(step)s
where id = %(id)s and state = 'running' and attempts = %(attempt)s returning cancel_requested

-- name: finish_part
-- The delivery's row is locked, so that nobody takes it up between its parts.
update delivery_part p set manifest = %(manifest)s, assay = %(assay)s
from (
  select id from delivery where id = %(delivery_id)s and state = 'running'
    and attempts = %(attempt)s for update
) d
where p.delivery_id = d.id and p.n = %(n)s

-- name: finish
update delivery
set state = %(state)s, error = %(error)s, finished_at = now(),
  progress = case when %(state)s = 'done' then 1 else progress end
where id = %(id)s and state = %(was)s and attempts = %(attempt)s

-- name: requeue
update delivery set state = 'queued', progress = 0, step = 'waiting again',
  attempts = attempts - case when %(counts)s then 0 else 1 end
where id = %(id)s and state = 'running' and attempts = %(attempt)s

-- name: ask_cancel
update delivery set cancel_requested = true
where id = %(id)s and state in ('queued', 'running') returning state

-- name: unfinished
select id, state, attempts from delivery where state in ('queued', 'running') order by id

-- name: waiting_jobs
-- Deliveries that have a job waiting in the queue.
select (args ->> 'delivery_id')::bigint as id from procrastinate_jobs
where task_name = 'deliver' and status = 'todo'

-- name: close_dead_jobs
-- Jobs of a delivery whose worker is gone.
update procrastinate_jobs set status = 'failed'
where task_name = 'deliver' and status = 'doing'
  and (args ->> 'delivery_id')::bigint = %(id)s

-- name: latest_parts
-- For each set and target of a project, the newest part that was delivered whole, and whether the
-- set still reads as it did then.
select distinct on (p.set_id, p.target_id)
  p.set_id, p.target_id, p.definition_key = s.definition_key as same_set, p.preset_key,
  p.delivery_id, p.n
from delivery_part p
  join delivery d on d.id = p.delivery_id
  join texture_set s on s.id = p.set_id
where d.project_id = %(project_id)s and s.project_id = d.project_id
  and p.manifest is not null and s.deleted_at is null
  and (%(ids)s::bigint[] is null or p.set_id = any(%(ids)s))
order by p.set_id, p.target_id, p.delivery_id desc

-- name: part_preset
select preset from delivery_part where delivery_id = %(delivery_id)s and n = %(n)s

-- name: asked_before
-- How often a set was asked for a target, before a delivery or in all.
select count(*) as n from delivery_part
where set_id = %(set_id)s and target_id = %(target_id)s
  and (%(before)s::bigint is null or delivery_id < %(before)s)

-- name: asked_for
-- How often each set was asked for each target.
select set_id, target_id, count(*) as n from delivery_part
where set_id = any(%(ids)s) group by set_id, target_id

-- name: latest_asked
-- For each set and target of a project, the newest delivery that was asked of it.
select distinct on (p.set_id, p.target_id)
  p.set_id, p.target_id, p.delivery_id, d.state, d.progress, d.error
from delivery_part p
  join delivery d on d.id = p.delivery_id
  join texture_set s on s.id = p.set_id
where d.project_id = %(project_id)s and s.project_id = d.project_id and s.deleted_at is null
  and d.state <> 'cancelled'
order by p.set_id, p.target_id, p.delivery_id desc

-- name: latest_whole
-- For each of some sets and each target, the newest part that was delivered whole.
select distinct on (p.set_id, p.target_id)
  p.delivery_id, p.n, p.set_id, p.target_id, p.definition, p.preset, p.longer_side, p.folder,
  p.manifest, p.assay
from delivery_part p join delivery d on d.id = p.delivery_id
where d.project_id = %(project_id)s and p.set_id = any(%(ids)s) and p.manifest is not null
order by p.set_id, p.target_id, p.delivery_id desc

-- name: written_to
select delivery_id, n, folder, manifest from delivery_part
where folder = any(%(folders)s) and manifest is not null order by delivery_id desc
