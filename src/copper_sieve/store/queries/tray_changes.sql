-- name: insert_change
insert into tray_change (project_id, title, steps) values (%(project_id)s, %(title)s, %(steps)s)
returning id

-- name: forget_undone
-- What was undone is given up by a new change.
delete from tray_change where project_id = %(project_id)s and undone

-- name: next_undo
select id, title, steps from tray_change
where project_id = %(project_id)s and not undone order by id desc limit 1

-- name: next_redo
select id, title, steps from tray_change
where project_id = %(project_id)s and undone order by id limit 1

-- name: set_undone
update tray_change set undone = %(undone)s, steps = %(steps)s where id = %(id)s

-- name: forget
delete from tray_change where id = %(id)s
