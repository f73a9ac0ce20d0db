-- name: insert_set
insert into texture_set (project_id, name, definition)
values (%(project_id)s, %(name)s, %(definition)s)
returning id, project_id, name, definition, version, updated_at, tags, notes, deleted_at

-- name: insert_set_source
insert into texture_set_source (set_id, sha256) values (%(set_id)s, %(sha256)s)
on conflict do nothing

-- name: list_sets
select id, project_id, name, definition, version, updated_at, tags, notes, deleted_at
from texture_set
where project_id = %(project_id)s and (deleted_at is not null) = %(deleted)s
  and (%(ids)s::bigint[] is null or id = any(%(ids)s))
order by lower(name), id

-- name: count_sets
select count(*) as n from texture_set
where project_id = %(project_id)s and (deleted_at is not null) = %(deleted)s

-- name: get_set
select id, project_id, name, definition, version, updated_at, tags, notes, deleted_at
from texture_set where id = %(id)s

-- name: lock_project
-- Two sets that arrive at once must not take the same name, nor one undo be done twice.
select id from project where id = %(project_id)s for update

-- name: picture_names
-- What the pictures were called that any set of a project holds or held, also if it was thrown away.
select distinct s.name
from source s join texture_set_source u using (sha256) join texture_set t on t.id = u.set_id
where t.project_id = %(project_id)s

-- name: taken_names
select name from texture_set where project_id = %(project_id)s and deleted_at is null

-- name: set_of_source
-- The set that was made from a source in this project, if there is one.
select s.id, s.project_id, s.name, s.definition, s.version, s.updated_at, s.tags, s.notes,
  s.deleted_at
from texture_set s join texture_set_source u on u.set_id = s.id
where s.project_id = %(project_id)s and u.sha256 = %(sha256)s and s.deleted_at is null
order by s.id limit 1

-- name: update_set
-- Changes nothing when somebody else was faster (the version differs).
update texture_set
set definition = %(definition)s, name = %(name)s, version = version + 1, updated_at = now(),
  history_n = %(history_n)s
where id = %(id)s and version = %(version)s and deleted_at is null
returning id, project_id, name, definition, version, updated_at, tags, notes, deleted_at

-- name: history_position
-- Which kept state a set shows, and the first and last there are (locks the set).
select s.history_n,
  (select min(n) from texture_set_history where set_id = s.id) as first,
  (select max(n) from texture_set_history where set_id = s.id) as last
from texture_set s where s.id = %(id)s for update

-- name: history_positions
select s.id, s.history_n > min(h.n) as can_undo, s.history_n < max(h.n) as can_redo
from texture_set s join texture_set_history h on h.set_id = s.id
where s.id = any(%(ids)s) group by s.id

-- name: history_definition
select definition from texture_set_history where set_id = %(id)s and n = %(n)s

-- name: forget_history
-- What was undone is given up by a new change, and so is what lies too far back.
delete from texture_set_history
where set_id = %(id)s and (n >= %(n)s or n < %(n)s - %(kept)s)

-- name: insert_history
insert into texture_set_history (set_id, n, definition) values (%(id)s, %(n)s, %(definition)s)

-- name: rename_set
-- No state that the Bench can undo. A set that is thrown away can be renamed as well.
update texture_set
set definition = %(definition)s, name = %(name)s, version = version + 1, updated_at = now()
where id = %(id)s
returning id, project_id, name, definition, version, updated_at, tags, notes, deleted_at

-- name: set_labels
-- What is said about a set without changing it.
update texture_set set tags = %(tags)s, notes = %(notes)s, updated_at = now() where id = %(id)s

-- name: set_deleted
update texture_set set deleted_at = case when %(deleted)s then now() end where id = %(id)s

-- name: set_project
update texture_set set project_id = %(project_id)s, updated_at = now() where id = %(id)s

-- name: copy_sources
insert into texture_set_source (set_id, sha256)
select %(id)s, sha256 from texture_set_source where set_id = %(other)s on conflict do nothing

-- name: purge
delete from texture_set where deleted_at < now() - %(days)s * interval '1 day'

-- name: references
-- What refers to sets: deliveries that hold them, those under way, files in Intake that wait.
select s.id, count(distinct p.delivery_id) filter (where p.manifest is not null) as delivered,
  max(p.delivery_id) filter (where p.state in ('queued', 'running')) as under_way
from texture_set s
  left join delivery_part p on p.set_id = s.id
where s.id = any(%(ids)s) group by s.id
