CREATE TABLE `job_habit` (
	`job_id` text NOT NULL,
	`kind` text NOT NULL,
	`margin` real DEFAULT 0 NOT NULL,
	`feather` real DEFAULT 0 NOT NULL,
	`strength` real,
	PRIMARY KEY(`job_id`, `kind`),
	FOREIGN KEY (`job_id`) REFERENCES `job`(`id`) ON UPDATE no action ON DELETE cascade
);
