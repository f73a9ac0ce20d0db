-- name: of_project
select set_id, target_id from auto_deliver where project_id = %(project_id)s
order by set_id nulls first, target_id nulls first

-- name: put
insert into auto_deliver (project_id, set_id, target_id)
values (%(project_id)s, %(set_id)s, %(target_id)s) on conflict do nothing

-- name: remove
delete from auto_deliver where project_id = %(project_id)s
  and set_id is not distinct from %(set_id)s and target_id is not distinct from %(target_id)s

-- name: change_signatures
-- Projects that keep something up to date, and a sign that changes with whatever may make them do
-- something: sets, targets, destinations, what is kept, deliveries that end.
select p.id, p.slug, concat_ws(' ',
  (select concat(max(updated_at), count(*)) from texture_set
   where project_id = p.id and deleted_at is null),
  (select concat(max(updated_at), count(*), sum(version)) from target),
  (select md5(string_agg(concat(target_id, folder, pattern, options), ' ' order by target_id))
   from destination where project_id = p.id),
  (select md5(string_agg(concat(set_id, '/', target_id), ' ' order by set_id, target_id))
   from auto_deliver where project_id = p.id),
  (select concat(count(*) > 0, max(d.id)) from delivery_part r
   join delivery d on d.id = r.delivery_id
   where d.project_id = p.id and r.state in ('queued', 'running'))
) as sign
from project p
where p.deleted_at is null and exists (select 1 from auto_deliver k where k.project_id = p.id)

-- name: postponed
-- The newest part that was asked of each set for each target, if it was not delivered whole: it
-- waits, runs, or came to nothing for the set as it is now.
select n.set_id, n.target_id, n.state, n.same_set
from (
  select distinct on (p.set_id, p.target_id) p.set_id, p.target_id, p.state,
    p.definition_key = s.definition_key as same_set
  from delivery_part p
    join delivery d on d.id = p.delivery_id
    join texture_set s on s.id = p.set_id
  where d.project_id = %(project_id)s and s.deleted_at is null
  order by p.set_id, p.target_id, p.delivery_id desc
) n where n.state <> 'done'

-- name: changed_projects
-- Sets that were changed in the last seconds.
select id from texture_set where project_id = %(project_id)s and deleted_at is null
  and updated_at > now() - %(seconds)s * interval '1 second'
