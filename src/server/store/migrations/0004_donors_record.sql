CREATE TABLE `job_record` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`job_id` text NOT NULL,
	`text` text NOT NULL,
	`at` integer NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `job`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `job_record_job` ON `job_record` (`job_id`);--> statement-breakpoint
ALTER TABLE `job` ADD `donors` text DEFAULT 'search' NOT NULL;