-- How a blade curved in its plane, and what a clamp in the temper took out.
alter table finding drop constraint finding_found_check;
alter table finding add constraint finding_found_check check (found ->> 'kind' in ('line', 'straight', 'side', 'sori',
    'clamped', 'crack', 'file', 'punch', 'grain', 'polish', 'etch', 'trial', 'burn', 'scrap'));
