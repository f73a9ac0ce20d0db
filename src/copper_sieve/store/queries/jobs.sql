-- name: running_with_key
select * from job where key = %(key)s and state = 'running' order by id limit 1

-- name: insert_job
-- Nothing where equal work waits already.
insert into job (kind, title, project_id, key, arguments, lane, priority)
values (%(kind)s, %(title)s, %(project_id)s, %(key)s, %(arguments)s, %(lane)s, %(priority)s)
on conflict (key) where state = 'queued' do nothing
returning *

-- name: queued_with_key
select * from job where key = %(key)s and state = 'queued'

-- name: insert_chunk
insert into job_file_chunk (job_id, n, data) values (%(job_id)s, %(n)s, %(data)s)

-- name: get_chunk
select data from job_file_chunk where job_id = %(job_id)s and n = %(n)s

-- name: delete_chunks
delete from job_file_chunk where job_id = %(job_id)s

-- name: get_job
select * from job where id = %(id)s

-- name: begin
update job set state = 'running', attempts = attempts + 1, machine = %(machine)s, progress = 0,
  step = '', started_at = now(), progressed_at = null
where id = %(id)s and state in ('queued', 'running')
returning *

-- name: report
update job set progress = greatest(progress, %(progress)s), step = %(step)s,
  progressed_at = case when progress >= %(progress)s then progressed_at else now() end
where id = %(id)s and attempts = %(attempt)s and state = 'running'

-- name: is_current
select from job where id = %(id)s and attempts = %(attempt)s and state = 'running'

-- name: finish
update job set state = 'done', progress = 1, step = '', result = %(result)s, ended_at = now()
where id = %(id)s and attempts = %(attempt)s and state = 'running'

-- name: fail
update job set state = 'failed', step = '', error = %(error)s, error_code = %(code)s, ended_at = now()
where id = %(id)s and attempts = %(attempt)s and state = 'running'

-- name: put_back
-- Its worker was told to stop, which is no attempt.
update job set state = 'queued', attempts = attempts - 1, progress = 0, step = '', started_at = null
where id = %(id)s and attempts = %(attempt)s and state = 'running'
  and not exists (select 1 from job other where other.key = job.key and other.state = 'queued')

-- name: cancel
update job set state = 'cancelled', step = '', ended_at = now()
where id = %(id)s and state in ('queued', 'running') returning *

-- name: retry
update job set state = 'queued', attempts = 0, progress = 0, step = '', error = null,
  error_code = null, started_at = null, ended_at = null
where id = %(id)s and state in ('failed', 'cancelled')
  and not exists (select 1 from job other where other.key = job.key and other.state = 'queued')
returning *

-- name: delete_job
delete from job where id = %(id)s and (state not in ('queued', 'running') or %(anyhow)s)

-- name: of_project
-- Jobs of a project and of none that wait, run, failed, or ended a short while ago. ahead: how many of
-- its lane are carried out before one that waits.
select j.*, case when j.state <> 'queued' then 0 else (
    select count(*) from job o where o.lane = j.lane and (o.state = 'running' or o.state = 'queued'
      and (o.priority > j.priority or o.priority = j.priority and o.id < j.id))
  ) end as ahead
from job j
where (j.project_id = %(project_id)s or j.project_id is null)
  and (j.state in ('queued', 'running', 'failed')
    or j.ended_at > now() - %(recent)s * interval '1 second')
order by j.id

-- name: last_failure
select * from job where key = %(key)s and state = 'failed' order by id desc limit 1

-- name: open_of
select from job where kind = %(kind)s and project_id = %(project_id)s
  and state in ('queued', 'running') limit 1

-- name: purge
delete from job where ended_at < now() - %(days)s * interval '1 day'

-- name: without_task
-- Jobs that no task of the queue calls for.
select * from job where state in ('queued', 'running') and not exists (
  select 1 from procrastinate_jobs t
  where t.status in ('todo', 'doing') and t.task_name = job.kind
    and (t.args ->> 'job_id')::bigint = job.id
)

-- name: unrequested_detections
select a.id, a.project_id, a.name from arrival a
where a.state = 'waiting' and a.dismissed_at is null and not exists (
  select 1 from job j where j.kind = 'file_detection' and j.state in ('queued', 'running')
    and (j.arguments ->> 'arrival_id')::bigint = a.id
) order by a.id

-- name: unrequested_comparisons
select s.id, s.project_id, s.name from capture_group s
where s.state = 'looking' and not exists (
  select 1 from job j where j.kind = 'light_estimation'
    and j.state in ('queued', 'running', 'failed', 'cancelled')
    and (j.arguments ->> 'surface_id')::bigint = s.id
) order by s.id
