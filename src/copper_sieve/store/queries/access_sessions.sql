-- name: add
insert into access_session (key, expires_at)
values (%(key)s, now() + %(seconds)s * interval '1 second')

-- name: delete_expired
delete from access_session where expires_at <= now()

-- name: is_valid
select exists (select from access_session where key = %(key)s and expires_at > now()) as valid

-- name: remove
delete from access_session where key = %(key)s
