CREATE TABLE `job_benches` (
	`job_id` text PRIMARY KEY NOT NULL,
	`say` text NOT NULL
);
