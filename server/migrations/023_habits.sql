-- In which zone and form a person reads dates and numbers: {"zone": "Europe/London", "form": "day first"}; what is not said is as the browser has it.
ALTER TABLE users ADD COLUMN habits jsonb NOT NULL DEFAULT '{}';
