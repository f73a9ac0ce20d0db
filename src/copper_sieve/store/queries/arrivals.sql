-- name: insert_arrival
insert into arrival (project_id, sha256, name, inside, batch)
values (%(project_id)s, %(sha256)s, %(name)s, %(inside)s, %(batch)s)
returning id

-- name: list_arrivals
select a.id, a.project_id, a.sha256, a.name, a.inside, a.batch, a.state, a.error, a.found, a.hint,
  a.change, a.card, a.set_id, s.facts, s.thumbnail is not null as has_thumbnail
from arrival a join source s using (sha256)
where a.project_id = %(project_id)s and a.dismissed_at is null
order by a.id

-- name: get_arrivals
select a.id, a.project_id, a.sha256, a.name, a.inside, a.batch, a.state, a.error, a.found, a.hint,
  a.change, a.card, a.set_id, s.facts, s.thumbnail is not null as has_thumbnail
from arrival a join source s using (sha256)
where a.id = any(%(ids)s) and a.dismissed_at is null
order by a.id

-- name: lock_arrivals
select id from arrival where id = any(%(ids)s) order by id for update

-- name: get_waiting
select id, project_id, sha256, name, batch from arrival
where id = %(id)s and state = 'waiting' and dismissed_at is null

-- name: known_recognition
-- What the same bytes under the same name were detected as before.
select k.found from arrival a
  join arrival k on k.sha256 = a.sha256 and k.name = a.name and k.id <> a.id
  join source s on s.sha256 = a.sha256
where a.id = %(id)s and k.found is not null and s.thumbnail is not null and s.facts ? 'tiling'
order by k.id desc limit 1

-- name: drop_state
-- waiting: files that are not detected yet. age: seconds since the last file was sent.
select count(*) filter (where state = 'waiting') as waiting,
  coalesce(extract(epoch from now() - max(created_at)), 1e9)::float8 as age
from arrival where project_id = %(project_id)s and batch = %(batch)s and dismissed_at is null

-- name: set_found
update arrival set state = 'recognized', found = %(found)s where id = %(id)s and state = 'waiting'

-- name: set_refused
update arrival set state = 'refused', error = %(error)s where id = %(id)s and state = 'waiting'

-- name: set_hint
update arrival set hint = %(hint)s where id = %(id)s

-- name: set_change
update arrival set change = %(change)s where id = %(id)s

-- name: set_card
update arrival set card = %(card)s where id = any(%(ids)s)

-- name: set_accepted
update arrival set state = 'accepted', set_id = %(set_id)s where id = any(%(ids)s)

-- name: dismiss_arrivals
update arrival set dismissed_at = now() where id = any(%(ids)s) and dismissed_at is null

-- name: restore_arrivals
update arrival set dismissed_at = null where id = any(%(ids)s) returning id

-- name: purge_dismissed
delete from arrival where dismissed_at < now() - %(days)s * interval '1 day' returning sha256

-- name: replace_source
-- A file that was changed where it came from: in no set yet it is looked at anew, whatever was said of
-- it stays.
update arrival set sha256 = %(sha256)s, hint = '', error = null,
  state = case when state = 'accepted' then state else 'waiting' end,
  found = case when state = 'accepted' then found end
where project_id = %(project_id)s and batch = %(batch)s and inside = %(inside)s
  and name = %(name)s and sha256 = %(before)s
returning set_id

-- name: arrived_since
select distinct sha256 from arrival where project_id = %(project_id)s and batch = %(batch)s

-- name: list_cards
select id, definition from source_card order by lower(name)

-- name: get_card
select id, definition from source_card where name = %(name)s

-- name: put_card
insert into source_card (name, definition) values (%(name)s, %(definition)s)
on conflict (name) do update set definition = excluded.definition, updated_at = now()
returning id

-- name: delete_card
delete from source_card where name = %(name)s returning id
