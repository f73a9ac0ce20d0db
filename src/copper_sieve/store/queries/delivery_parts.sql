-- name: next_part
-- The part that is to be carried out next of those that fit into a machine's memory: parts that
-- somebody waits for before those of a long delivery, the older first. Where nothing runs on the
-- machine, any part fits. Among the first ones, those of the set that the worker has just had (it
-- still has its maps), and then those of sets that nobody is at.
select first.number
from (
  select p.number, p.set_id, p.small, p.delivery_id, p.n
  from delivery_part p,
    (select count(*) as n, coalesce(sum(bytes), 0) as bytes from delivery_part
     where state = 'running' and machine = %(machine)s) busy
  where p.state = 'queued' and not (p.number = any(%(but)s))
    and (%(delivery_id)s::bigint is null or p.delivery_id = %(delivery_id)s)
    and (busy.n = 0 or busy.bytes + p.bytes <= %(budget)s)
  order by p.small desc, p.delivery_id, p.n limit 64
) first
order by first.small desc, first.delivery_id,
  first.set_id is distinct from %(last_set)s::bigint,
  first.set_id = any(array(select set_id from delivery_part where state = 'running')),
  first.n
limit 1

-- name: waiting
select count(*) as n from delivery_part
where state = 'queued' and not (number = any(%(but)s))
  and (%(delivery_id)s::bigint is null or delivery_id = %(delivery_id)s)

-- name: claim_lock
-- One worker of a machine at a time, so that its memory is not given away twice.
select pg_advisory_xact_lock(hashtext('copper-sieve/' || %(machine)s))

-- name: begin
update delivery_part p set state = 'running', started_at = now(), finished_at = null,
  attempts = attempts + 1, progress = 0, step = '', error = null, machine = %(machine)s,
  clearing = false
from (select count(*) as n, coalesce(sum(bytes), 0) as bytes from delivery_part
   where state = 'running' and machine = %(machine)s) busy
where p.number = %(number)s and p.state = 'queued'
  and (busy.n = 0 or busy.bytes + p.bytes <= %(budget)s)
returning p.attempts, p.delivery_id, p.n, p.set_id

-- name: report
-- Nothing is found once the attempt is to stop.
update delivery_part set progress = %(progress)s, step = %(step)s
where number = %(number)s and state = 'running' and attempts = %(attempt)s returning number

-- name: finish_part
update delivery_part set manifest = %(manifest)s, assay = %(assay)s, state = 'done', progress = 1,
  step = '', finished_at = now(), written = %(written)s, kept = %(kept)s, clearing = %(clearing)s
where number = %(number)s and state = 'running' and attempts = %(attempt)s

-- name: fail
update delivery_part set state = 'failed', error = %(error)s, step = '', finished_at = now()
where number = %(number)s and state = 'running' and attempts = %(attempt)s

-- name: requeue
update delivery_part set state = 'queued', progress = 0, step = 'waiting again',
  attempts = attempts - case when %(counts)s then 0 else 1 end
where number = %(number)s and state = 'running' and attempts = %(attempt)s

-- name: clear_results
update delivery_part set clearing = false, stamps = coalesce(%(stamps)s, stamps)
where number = %(number)s and attempts = %(attempt)s

-- name: cancel
-- What runs is given up at once: its worker clears up as soon as it hears of it.
update delivery_part set state = 'cancelled', clearing = state = 'running', finished_at = now(),
  step = ''
where delivery_id = %(id)s and state in ('queued', 'running')

-- name: retry
update delivery_part set state = 'queued', attempts = 0, progress = 0, step = '', error = null,
  finished_at = null
where delivery_id = %(id)s and state in ('failed', 'cancelled') and not clearing

-- name: open_parts
-- Parts that some worker has in hand, or had when it died.
select number, delivery_id, n, state from delivery_part where state = 'running' or clearing
order by delivery_id, n

-- name: without_job
-- Deliveries with parts that wait, none that runs, and no job that waits in the queue.
select distinct p.delivery_id as id from delivery_part p
where p.state = 'queued' and not exists (
  select 1 from delivery_part r where r.delivery_id = p.delivery_id and r.state = 'running'
) and not exists (
  select 1 from procrastinate_jobs j
  where j.task_name = 'deliver' and j.status = 'todo'
    and (j.args ->> 'delivery_id')::bigint = p.delivery_id
) order by id

-- name: close_dead_jobs
-- Jobs that no worker has in hand any more: theirs died.
update procrastinate_jobs j set status = 'failed'
where j.task_name = 'deliver' and j.status = 'doing'
  and not exists (
    select 1 from procrastinate_workers w
    where w.id = j.worker_id and w.last_heartbeat > now() - interval '60 seconds'
  )
