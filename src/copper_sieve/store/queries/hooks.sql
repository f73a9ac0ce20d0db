-- name: insert
insert into hook (project_id, url, secret) values (%(project_id)s, %(url)s, %(secret)s)
returning id, project_id, url, secret, last_called_at, last_error, created_at

-- name: of_project
select id, project_id, url, secret, last_called_at, last_error, created_at from hook
where project_id = %(project_id)s order by id

-- name: get
select id, project_id, url, secret, last_called_at, last_error, created_at from hook
where id = %(id)s

-- name: remove
delete from hook where id = %(id)s

-- name: called
update hook set last_called_at = now(), last_error = %(error)s where id = %(id)s

-- name: to_tell
-- Deliveries that have ended and of which nobody was told.
select d.id, d.project_id, d.tell_attempts
from delivery d join delivery_now n on n.id = d.id
where not d.told and d.tell_after <= now() and n.state in ('done', 'failed', 'cancelled')
order by d.id limit 20

-- name: told
update delivery set told = true where id = %(id)s

-- name: tell_again
update delivery set told = false, tell_attempts = 0, tell_after = now() where id = %(id)s

-- name: tell_later
update delivery set tell_attempts = tell_attempts + 1,
  tell_after = now() + %(seconds)s * interval '1 second'
where id = %(id)s
