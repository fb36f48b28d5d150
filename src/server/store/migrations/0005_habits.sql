CREATE TABLE `habit` (
	`kind` text PRIMARY KEY NOT NULL,
	`margin` real DEFAULT 0 NOT NULL,
	`feather` real DEFAULT 0 NOT NULL,
	`strength` real
);
