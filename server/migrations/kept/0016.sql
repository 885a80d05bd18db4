-- The database as version 16 of its schema left it: a unit, a job and the first events of a run.
CREATE TABLE __drizzle_migrations (id SERIAL PRIMARY KEY, hash text NOT NULL, created_at numeric);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'f5310a61e53835a7e45891c41d0b44469ee90f64fe054f86641abe6109e49043',1795489468311);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'b5fb752228a274555bbeecdeb04d6feaa9ff07323303e25a11a0a7277417f548',1795563429925);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'543c60bc875f3b0a8a383d565c1a375c21153986955bbf6fc4abff5818239b56',1795569577962);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'67bbc93b2ce926254f9e958648e99918c09f5ec746e7cde07c3ca43abe981c83',1795574746984);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'cabe6aa72577bff44fe45410c26072d2fddead91791d857251bdddc745ff72ef',1795580918828);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'f778751d9cfef819ba4cb839ffefc832846b37c46c440131eabe61393f0c651d',1795581618566);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'5e36954cc9c3b55eff100fe853aea163efc7d06c6544254595a9d605de237975',1795621169582);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'ee272ee2fc9b86b47e8ff688fa347e1961b13a4e121ba9ed4bfd3d7bebb7b2a3',1795644613237);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'66ffbb7532dbd8ab8df0fc1f38951a7beb6c6afc70a0be6d6a077224a935416c',1795648733422);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'d8e96336506db7e703989dfeb5c4daf103b47a33cfff54a47722b1b5a362b028',1795679574206);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'c5f61bda8bc91167d81ad39e8ef300af2e419d7f28f3814db961c640217efdae',1795692945628);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'349bfec887fb2a8c690b194a917abc1614786ff9f2317066329ffd55a9850d97',1795704276112);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'db6df666fd5f8d88e4828cfbf53ecc54b042361e89f925fa9fd34da4700b3082',1795729530115);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'1b9fb63fbcb22ff257e9ced5dd8251414d55be9c02a15dae40a72880aca38171',1795741955626);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'f3631639a9529b063cb47fdb106fcd6187696db3423a156407b298d6d5e37974',1795763052777);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'6c5f81f96d78a6ff39307d070e9b65467cc67c962780eab9c4c50aeef873407f',1795775212824);
INSERT INTO "__drizzle_migrations" VALUES(NULL,'ef3d1a13db760dd4a4586c1ec2d9ba5f96932a5dee1d2323ac88851d0d6cd3be',1795786765035);
CREATE TABLE `adapters` (
	`id` text PRIMARY KEY NOT NULL,
	`document` text NOT NULL,
	`added_at` integer NOT NULL
);
INSERT INTO "adapters" VALUES('serial-switched','{"levels":[3.3,5],"terminator":false,"ownPart":false,"standing":"good","id":"serial-switched","name":"Serial adapter with level switch","kind":"serial","form":"converter","pins":[{"id":"GND","name":"GND","role":"ground"},{"id":"TX","name":"TX","role":"transmit"},{"id":"RX","name":"RX","role":"receive"},{"id":"VCC","name":"VCC","role":"supply","volts":5}],"standingWhy":"Forty writes without a fault","serial":"SA-11","usb":{"vendorId":"f0a1","productId":"0011"}}',1795691723383);
CREATE TABLE `bench_meters` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`document` text,
	`at` integer NOT NULL
);
CREATE TABLE `blob_parts` (
	`sha256` text NOT NULL,
	`part` integer NOT NULL,
	`bytes` blob NOT NULL,
	PRIMARY KEY(`sha256`, `part`)
);
CREATE TABLE `blobs` (
	`sha256` text PRIMARY KEY NOT NULL,
	`bytes` blob NOT NULL
);
INSERT INTO "blobs" VALUES('e01b381491bcc4f1714fa44786f72da1a4948d7af1e3be28507fc42843adbc76',X'3A3034303030303030303130323033303446320A3A303030303030303146460A');
CREATE TABLE `bundles` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`sha256` text NOT NULL,
	`size` integer NOT NULL,
	`added_at` integer NOT NULL,
	`origin` text,
	`entries` text NOT NULL
);
CREATE TABLE `calibration_cases` (
	`id` text PRIMARY KEY NOT NULL,
	`unit_id` text NOT NULL,
	`opened_at` integer NOT NULL
);
INSERT INTO "calibration_cases" VALUES('case-kept','fog-11',1795000000000);
CREATE TABLE `case_events` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`case_id` text NOT NULL,
	`at` integer NOT NULL,
	`event` text NOT NULL
);
CREATE TABLE `case_logs` (
	`id` text PRIMARY KEY NOT NULL,
	`case_id` text NOT NULL,
	`round` integer NOT NULL,
	`log_kind` text NOT NULL,
	`name` text NOT NULL,
	`sha256` text NOT NULL,
	`bytes` integer NOT NULL,
	`at` integer NOT NULL,
	`judged` text NOT NULL
);
CREATE TABLE `case_packages` (
	`sha256` text PRIMARY KEY NOT NULL,
	`case_id` text NOT NULL,
	`round` integer NOT NULL,
	`name` text NOT NULL,
	`at` integer NOT NULL
);
CREATE TABLE `damaged_rows` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`from_table` text NOT NULL,
	`key` text NOT NULL,
	`why` text NOT NULL,
	`row` text NOT NULL
);
CREATE TABLE `drills` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`exercise_id` text NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL,
	`help` text NOT NULL,
	`unsafe` integer NOT NULL,
	`wrong` integer NOT NULL,
	`took_ms` real NOT NULL,
	`score` integer NOT NULL
);
INSERT INTO "drills" VALUES(1,'radio','M. Tarn',1,'full',0,1,1000.5,70);
CREATE TABLE `families` (
	`id` text NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`added_at` integer NOT NULL,
	PRIMARY KEY(`id`, `revision`)
);
INSERT INTO "families" VALUES('fog-signal',1,'{"format":"bench-wake/family","formatVersion":1,"id":"fog-signal","revision":1,"name":"Fog-signal controller","summary":"Keys the horn and watches its battery on an unmanned light. Two controller lines, 2 and 3, in the same case.","hardware":{"deviceIdentifier":"FS-20","vendorId":"66ebfbc3-91e7-52c4-b741-1510e730dfec","classId":"02d49742-29bf-5530-a5b7-39087d1093a4","revisions":[{"major":2,"name":"Controller line 2","told":{"by":"link","says":"The console’s hardware line begins with 2; the board is green."}},{"major":3,"name":"Controller line 3","told":{"by":"link","says":"The console’s hardware line begins with 3; the board is blue."}}]},"components":[{"id":"main","name":"Main processor","memory":{"erasedByte":255,"regions":[{"name":"Bootloader","use":"bootloader","address":"0x08000000","length":"0x8000"},{"name":"Application","use":"application","address":"0x08008000","length":"0x40000","sectorBytes":4096,"pageBytes":256,"eraseMsPerSector":45,"programMsPerPage":0.6},{"name":"Horn settings","use":"settings","address":"0x08048000","length":"0x2000"}]},"identity":{"address":"0x080081C0","magic":"FOGSIGNL","fields":[{"field":"deviceIdentifier","offset":"0x8","type":"ascii","length":8},{"field":"hardwareMajor","offset":"0x10","type":"u8"},{"field":"hardwareMinor","offset":"0x11","type":"u8"},{"field":"release","offset":"0x12","type":"u8","names":{"0":"production","1":"test"}},{"field":"version","offset":"0x14","type":"ascii","length":12},{"field":"buildTime","offset":"0x20","type":"unix32le"},{"field":"length","offset":"0x24","type":"u32le"}],"integrity":"crc32-trailer"},"version":{"scheme":"dotted","downgrade":"refused"}}],"snapshot":[{"field":"deviceIdentifier","label":"Device","reads":"device {value}","change":"must-not"},{"field":"hardware","label":"Hardware","reads":"hardware {value}","change":"must-not"},{"field":"serial","label":"Serial","reads":"serial {value}","change":"must-not"},{"field":"bootloader","label":"Bootloader","reads":"boot {value}","change":"must-not"},{"field":"version.main","label":"Main firmware","reads":"main {value}","change":"must"},{"field":"buildTime.main","label":"Built","reads":"built {value}","change":"must"},{"field":"application","label":"Application","reads":"app {value}","change":"may"},{"field":"horn","label":"Horn character","reads":"horn {value}","change":"must-not"},{"field":"supply","label":"Supply","example":"12.41 V","reads":"supply {value}","change":"may"}],"links":[{"id":"service","name":"Service jack, three-wire serial","kind":"serial","wiring":{"connector":"Service jack J2","pins":[{"id":"1","name":"GND","role":"ground","needed":true},{"id":"2","name":"TX","role":"transmit","volts":5,"needed":true},{"id":"3","name":"RX","role":"receive","volts":5,"needed":true},{"id":"4","name":"12 V","role":"supply","volts":12,"open":true}],"form":"converter","fed":"own","order":["Adapter into the computer, seen there.","Then into the service jack."],"says":"The fourth pin carries the battery: it stays open."},"settings":{"baudRate":115200,"dataBits":8,"parity":"none","stopBits":1},"console":{"lineEnd":"\r","done":"ok","refused":"error {reason}","identify":{"send":"id","timeoutMs":1500}},"loader":{"protocol":"xmodem","blockBytes":1024,"padByte":255,"ready":"boot ready","identify":{"send":"info","timeoutMs":1500},"erase":{"send":"erase {address:hex8} {length:hex8}","progress":"sector {done}/{total}","timeoutMs":3000},"write":{"send":"load {address:hex8}","reads":"send xmodem","timeoutMs":5000},"checksum":{"send":"crc {address:hex8} {length:hex8}","reads":"crc {crc32}","timeoutMs":5000},"leave":{"send":"boot","timeoutMs":3000}}}],"entry":[{"id":"by-command","name":"By command, from the running firmware","kind":"command","send":"update","settleMs":700,"tries":3,"script":{"kind":"command","acts":[{"id":"send","act":"send","what":"update","by":"program","says":"The program sends “update”."}],"signs":[{"id":"in","says":"Lamp dark","part":"lamp","shown":"dark","tells":"in","means":"The bootloader waits."},{"id":"still","says":"Lamp steady","part":"lamp","shown":"steady","tells":"not-in","means":"The firmware did not take the command.","do":"Read the unit again; it must answer normally first."}],"signWithinMs":700}},{"id":"two-keys","name":"Two keys while the supply comes on","kind":"by-hand","steps":["Hold Up and Set together.","Supply on.","Keep holding until the display reads UPDATE."],"settleMs":2500,"tries":4,"script":{"kind":"keys-at-power","acts":[{"id":"off","act":"remove","what":"supply","by":"right","says":"Supply off."},{"id":"hold-up","act":"hold","what":"key-up","by":"left","says":"Left hand: hold Up."},{"id":"hold-set","act":"hold","what":"key-set","by":"right","says":"Right hand: hold Set too."},{"id":"on","act":"apply","what":"supply","by":"helper","says":"Helper: supply on.","within":{"leastMs":1000,"mostMs":20000},"early":"The supply came back before it was really off: count to one.","late":"The keys were held too long without supply."},{"id":"let-up","act":"release","what":"key-up","by":"left","says":"Keep holding until UPDATE shows. Then let go of Up.","within":{"leastMs":2000,"mostMs":6000},"early":"Up was let go before the update page was there.","late":"The keys were held on: the page has gone to the factory reset and was left."},{"id":"let-set","act":"release","what":"key-set","by":"right","says":"Let go of Set."}],"signs":[{"id":"update","says":"Display reads UPDATE","part":"display","shown":"text","text":"UPDATE","tells":"in","means":"The update page waits."},{"id":"blasts","says":"Display reads the horn’s character","part":"display","shown":"blinking","tells":"not-in","means":"That is the normal start: the keys were let go too early, or pressed too light.","do":"From power off, once more."}],"signWithinMs":1500}}],"panel":{"name":"Front of the controller","parts":[{"id":"display","name":"Display","kind":"display","x":50,"y":26,"rests":"text"},{"id":"key-up","name":"Up","kind":"key","x":30,"y":66},{"id":"key-down","name":"Down","kind":"key","x":50,"y":66},{"id":"key-set","name":"Set","kind":"key","x":70,"y":66},{"id":"lamp","name":"Lamp","kind":"lamp","x":14,"y":26,"rests":"steady"},{"id":"power","name":"Supply switch","kind":"switch","x":88,"y":30},{"id":"service","name":"J2","kind":"jack","x":88,"y":70}]},"updates":{"hops":"house","together":false},"advisories":[{"id":"skipped-blast","component":"main","says":"The horn skips a blast.","words":["horn","blast","skip"],"kind":"fault","curedIn":"2.48","serials":[{"from":"FS3-00100","to":"FS3-00599"}]}],"restart":{"readyMs":1500,"powerCycle":"Switch the controller’s supply off. Count five. Switch it on again."},"power":{"nominalVolts":12,"floorVolts":11.5,"ceilingVolts":15,"amps":{"idle":0.35,"erase":0.95,"write":1.1},"caution":"The horn can sound at any moment while the firmware runs: wear ear protection at the emitter.","supply":{"chemistry":"lead-acid","cells":6,"capacityAh":60,"leadOhms":0.02,"loads":[{"id":"lantern","name":"Lantern","amps":1.2,"shed":"pull fuse F3, lantern"}]}},"powerOrder":{"on":[{"id":"panels-off","does":"Panel breaker Q2 off.","caution":"Panels are live in daylight: use the breaker, never pull a plug under load. Local codes and licensed people come first."},{"id":"battery-on","does":"Battery switch S1 on."}],"off":[{"id":"panels-on","does":"Panel breaker Q2 on again, the battery being on.","caution":"Battery first, panels second. Local codes and licensed people come first."}]},"kit":[{"id":"multimeter","name":"Multimeter with fresh cells","kind":"tool","essential":true,"why":"Measures the supply at the terminals"},{"id":"ear-protection","name":"Ear protection","kind":"protection","essential":true,"why":"The horn can sound at any moment"},{"id":"spare-clamp","name":"Battery clamp, spare","kind":"spare","essential":false},{"id":"wiring-card","name":"Wiring card, printed","kind":"papers","essential":false}],"retries":{"asIs":2,"reEnter":1,"otherAdapter":true},"backup":{"firmware":"universal"},"aftercare":[{"id":"first-blast","kind":"scare","does":"One short blast when the horn driver starts.","expect":"It sounds once and stays quiet.","caution":"Ears covered, nobody in front of the horn."},{"id":"sounds","kind":"function-test","does":"Sound one blast from the panel.","expect":"The blast is even and as long as set.","caution":"Ears covered, nobody in front of the horn."},{"id":"interval","kind":"settings","does":"Compare the blast interval with the light’s papers.","expect":"It is the one of this station."}],"stages":{"enter":{"see":["Lamp goes from green to steady amber","UPDATE on the display"],"ifNot":[{"sign":"Lamp blinks green","do":"That is the normal start. Nothing is lost; it is tried again."}],"normal":["The display is blank for half a second."]},"erase":{"see":["Lamp steady amber, UPDATE on the display"],"normal":["From here to the restart the unit has no firmware. Its bootloader stays."]},"write":{"see":["Lamp flickers amber, UPDATE on the display"],"ifNot":[{"sign":"Lamp dark for 5 s","do":"Touch nothing. The block is sent again by itself."}],"normal":["The horn relay clicks once now and then."]},"verify":{"see":["Lamp steady amber"]},"restart":{"see":["Lamp steady green, the horn’s character on the display"],"ifNot":[{"sign":"Lamp amber again","do":"The bootloader did not accept the image. Write it again."}],"normal":["Ten short tones. That is the horn’s self-check."],"caution":"Keep people clear of the emitter before the supply comes back: the self-check sounds. Local codes and licensed people come first where the light station’s mains is touched."},"prove":{"see":["Lamp steady green"]}}}',1795691723338);
CREATE TABLE `found_causes` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`family_id` text NOT NULL,
	`job_id` text NOT NULL,
	`cause` text NOT NULL,
	`at` integer NOT NULL
);
CREATE TABLE `house_policies` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`policy` text NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL
);
INSERT INTO "house_policies" VALUES(1,'{}','M. Tarn',1);
CREATE TABLE `image_files` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`image_id` text NOT NULL,
	`name` text NOT NULL,
	`sha256` text NOT NULL,
	`size` integer NOT NULL,
	`added_at` integer NOT NULL
, `origin` text, `bundle_id` text, `path` text, `claim` text);
INSERT INTO "image_files" VALUES(1,'image-0648b8754a61','kept.hex','e01b381491bcc4f1714fa44786f72da1a4948d7af1e3be28507fc42843adbc76',32,1,NULL,NULL,NULL,NULL);
CREATE TABLE `image_sights` (
	`image_id` text PRIMARY KEY NOT NULL,
	`profiles` text NOT NULL,
	`identity` text
);
CREATE TABLE `image_statements` (
	`image_id` text PRIMARY KEY NOT NULL,
	`family_id` text NOT NULL,
	`component_id` text NOT NULL,
	`version` text,
	`hardware_major` integer,
	`by` text NOT NULL,
	`origin` text NOT NULL,
	`at` integer NOT NULL
);
CREATE TABLE `images` (
	`id` text PRIMARY KEY NOT NULL,
	`content_sha256` text NOT NULL,
	`added_at` integer NOT NULL
, `facts` text, `sketch` blob, `removed_at` integer);
INSERT INTO "images" VALUES('image-0648b8754a61','0648b8754a613b8a86bb1049c39e96f5de261438a30265fa1b15718980372429',1,NULL,NULL,NULL);
CREATE TABLE `job_benches` (
	`job_id` text PRIMARY KEY NOT NULL,
	`say` text NOT NULL
);
CREATE TABLE `job_files` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`type` text NOT NULL,
	`bytes` integer NOT NULL,
	`sha256` text NOT NULL,
	`at` integer NOT NULL
);
CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`unit_id` text NOT NULL,
	`image_id` text,
	`component_id` text NOT NULL,
	`reason` text NOT NULL,
	`day` text NOT NULL,
	`added_at` integer NOT NULL,
	`closed_at` integer,
	`closed_by` text,
	`closing_note` text
, `kind` text DEFAULT 'fault' NOT NULL, `symptoms` text DEFAULT '[]' NOT NULL, `releases` text DEFAULT '[]' NOT NULL, `history` text DEFAULT '[]' NOT NULL, `task` text DEFAULT 'write' NOT NULL);
INSERT INTO "jobs" VALUES('job-fog-11','fog-11','image-0648b8754a61','main','Horn skips a blast, seen once.','2026-11-20',1795691728195,1795168560000,'M. Ferrow','First leg cut: battery clamp was loose, tightened. Horn heard from the mole, two blasts.','fault','[{"says":"Horn skips a blast","often":"once","since":"2026-11-11"}]','[{"rule": "kit", "name": "M. Ferrow", "reason": "The lead is on the boat.", "says": "One thing is not packed.", "at": 1795600000000}]','[{"did": "moved", "by": "M. Ferrow", "at": 1795600000000, "says": "2026-11-30"}]','write');
CREATE TABLE `laptop_says` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`say` text NOT NULL,
	`at` integer NOT NULL
);
INSERT INTO "laptop_says" VALUES(1,'{"share":0.5,"saidAt":1}',1);
CREATE TABLE `packed_items` (
	`day` text NOT NULL,
	`item` text NOT NULL,
	`at` integer NOT NULL,
	PRIMARY KEY(`day`, `item`)
);
INSERT INTO "packed_items" VALUES('2026-11-24','item-1',1);
CREATE TABLE `passwords` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`hash` text NOT NULL,
	`at` integer NOT NULL
);
CREATE TABLE `refusals` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`kind` text NOT NULL,
	`asked` text NOT NULL,
	`thing` text,
	`says` text NOT NULL,
	`found` text
);
INSERT INTO "refusals" VALUES(1,1,'port-held','POST /api/runs','p','the port is in use',NULL);
CREATE TABLE `requests` (
	`id` text PRIMARY KEY NOT NULL,
	`unit_id` text NOT NULL,
	`asked` text NOT NULL,
	`of` text NOT NULL,
	`asked_at` integer NOT NULL,
	`due_day` text NOT NULL,
	`answer` text,
	`image_id` text,
	`closed_at` integer
);
CREATE TABLE `run_summaries` (
	`run_id` text PRIMARY KEY NOT NULL,
	`hash` text NOT NULL,
	`mark` text NOT NULL,
	`state` text NOT NULL
);
CREATE TABLE `runs` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`unit_id` text NOT NULL,
	`added_at` integer NOT NULL
, `program` text);
INSERT INTO "runs" VALUES('run-4t98cgkk','job-fog-11','fog-11',1795691728376,NULL);
CREATE TABLE `sessions` (
	`id` text PRIMARY KEY NOT NULL,
	`secret_sha256` text NOT NULL,
	`device` text NOT NULL,
	`person` text NOT NULL,
	`at` integer NOT NULL,
	`seen_at` integer NOT NULL,
	`ends_at` integer NOT NULL
);
CREATE TABLE `snapshots` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`unit_id` text NOT NULL,
	`at` real NOT NULL,
	`source` text NOT NULL,
	`lines` text NOT NULL
, `photo_sha256` text, `photo_type` text, `in_bootloader` integer DEFAULT false NOT NULL, `refused` text, `after_event` integer DEFAULT 0 NOT NULL);
INSERT INTO "snapshots" VALUES(3,'fog-11',1794912060000.0,'link','[{"field":"deviceIdentifier","label":"Device","value":"FS-20"},{"field":"hardware","label":"Hardware","value":"3.2"},{"field":"serial","label":"Serial","value":"FS3-00502"},{"field":"bootloader","label":"Bootloader","value":"1.3"},{"field":"version.main","label":"Main firmware","value":"2.41"},{"field":"buildTime.main","label":"Built","value":"2025-03-04T10:12Z"},{"field":"horn","label":"Horn character","value":"2 blasts every 60 s"}]',NULL,NULL,0,NULL,0);
CREATE TABLE `stand_ins` (
	`id` text PRIMARY KEY NOT NULL,
	`family_id` text NOT NULL,
	`name` text NOT NULL,
	`hardware` text NOT NULL,
	`serial` text NOT NULL,
	`flash` blob NOT NULL,
	`used_ah` real NOT NULL,
	`in_bootloader` integer NOT NULL
, `link_id` text, `lines` text DEFAULT '{}' NOT NULL);
CREATE TABLE `table_definitions` (
	`id` text PRIMARY KEY NOT NULL,
	`document` text NOT NULL,
	`added_at` integer NOT NULL
);
CREATE TABLE `unit_answers` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`unit_id` text NOT NULL,
	`question` text NOT NULL,
	`answer` text NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL
);
CREATE TABLE `units` (
	`id` text PRIMARY KEY NOT NULL,
	`family_id` text NOT NULL,
	`name` text NOT NULL,
	`place` text NOT NULL,
	`serial` text NOT NULL,
	`added_at` integer NOT NULL
);
INSERT INTO "units" VALUES('fog-11','fog-signal','Fog signal 11','Little Hesper, north mole','FS3-00502',1795691727769);
CREATE TABLE `wake_events` (
	`run_id` text NOT NULL,
	`seq` integer NOT NULL,
	`at` real NOT NULL,
	`type` text NOT NULL,
	`body` text NOT NULL,
	`prev` text NOT NULL,
	`hash` text NOT NULL,
	PRIMARY KEY(`run_id`, `seq`)
);
INSERT INTO "wake_events" VALUES('run-4t98cgkk',1,1795167600000.0,'run.opened','{"type":"run.opened","runId":"run-4t98cgkk","job":{"id":"job-fog-11","reason":"Horn skips a blast, seen once."},"unit":{"id":"fog-11","name":"Fog signal 11","place":"Little Hesper, north mole","serial":"FS3-00502"},"family":{"id":"fog-signal","revision":1,"name":"Fog-signal controller"},"component":{"id":"main","name":"Main processor"},"image":{"id":"image-377cfbf1443b","name":"fs20-main-2.48.hex","sha256":"4c18aa4538a0181f0d158a2eb8e0a41ab430ceef94310e780e31d181d2d87649","bytes":262144,"version":"2.48","release":"production"},"from":"2.41","port":{"id":"stand-in:fog-11","name":"Stand-in, Fog signal 11","standIn":true},"speed":0,"floorVolts":11.5,"releases":[],"plan":[{"kind":"power-up","says":"Power as ordered, 2 steps","predictedMs":0,"personMs":20000,"handsOff":false},{"kind":"connect","says":"Open the port at 115 200 baud","predictedMs":50,"personMs":0,"handsOff":false},{"kind":"identify","says":"Read what the unit says of itself","predictedMs":49,"personMs":0,"handsOff":false},{"kind":"enter","says":"By command, from the running firmware","predictedMs":798,"personMs":0,"handsOff":false},{"kind":"compare","says":"Hold the image against what is in the unit","predictedMs":49,"personMs":0,"handsOff":false},{"kind":"erase","says":"Erase 64 sectors","predictedMs":2976,"personMs":0,"handsOff":true},{"kind":"write","says":"Write 262 144 bytes","predictedMs":23552,"personMs":0,"handsOff":true},{"kind":"verify","says":"Compare the checksum over what is in the unit","predictedMs":49,"personMs":0,"handsOff":true},{"kind":"restart","says":"Start the new firmware, then power off and on","predictedMs":3049,"personMs":15000,"handsOff":false},{"kind":"prove","says":"Read the main processor’s version from the unit","predictedMs":49,"personMs":0,"handsOff":false}]}','0000000000000000000000000000000000000000000000000000000000000000','2081d5190e5b1fa11693bb8af3824ea3d05f9e655911569b3463fae8fedd9b5b');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',2,1795167600000.0,'step.started','{"type":"step.started","step":0}','2081d5190e5b1fa11693bb8af3824ea3d05f9e655911569b3463fae8fedd9b5b','fab4b6af36752a07095684dc87166373924375800a81f63a342caa17bbdc79c8');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',3,1795167600000.0,'prompt.asked','{"type":"prompt.asked","step":0,"prompt":"power-up.panels-off","says":"Panel breaker Q2 off.","caution":"Panels are live in daylight: use the breaker, never pull a plug under load. Local codes and licensed people come first.","answers":[{"id":"done","says":"Done"}]}','fab4b6af36752a07095684dc87166373924375800a81f63a342caa17bbdc79c8','0f0ed79ed2f379f81c35aba3766621afbcd81bfb3ed47bbf14ea155c617d2340');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',4,1795167600000.0,'prompt.answered','{"type":"prompt.answered","step":0,"prompt":"power-up.panels-off","answer":"done"}','0f0ed79ed2f379f81c35aba3766621afbcd81bfb3ed47bbf14ea155c617d2340','6bf0c82fd27447139a6c4d4cc7c4193780a9fc87e735a8d19a8c4a402c6450ec');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',5,1795167600000.0,'prompt.asked','{"type":"prompt.asked","step":0,"prompt":"power-up.battery-on","says":"Battery switch S1 on.","answers":[{"id":"done","says":"Done"}]}','6bf0c82fd27447139a6c4d4cc7c4193780a9fc87e735a8d19a8c4a402c6450ec','fc1dfe9f90c7fe0a365e3030eb9eb36df54f4515a1c525dbb192a29c308fce1f');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',6,1795167600000.0,'prompt.answered','{"type":"prompt.answered","step":0,"prompt":"power-up.battery-on","answer":"done"}','fc1dfe9f90c7fe0a365e3030eb9eb36df54f4515a1c525dbb192a29c308fce1f','3e20bfc9dadabfcc5eceedb249aedf98f2639b710c21d74b27471dd25a3d7e3b');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',7,1795167600000.0,'step.done','{"type":"step.done","step":0}','3e20bfc9dadabfcc5eceedb249aedf98f2639b710c21d74b27471dd25a3d7e3b','5a1b046e6308dc53764e32c0e49761420a33ff39b6f5e4f9b731d393784b0b33');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',8,1795167600000.0,'step.started','{"type":"step.started","step":1}','5a1b046e6308dc53764e32c0e49761420a33ff39b6f5e4f9b731d393784b0b33','3bcd2864bd257f9d3c53d7e18ea9c6e35ed6871dc49de4c514993bd7895b4bbd');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',9,1795167600000.0,'step.done','{"type":"step.done","step":1}','3bcd2864bd257f9d3c53d7e18ea9c6e35ed6871dc49de4c514993bd7895b4bbd','3b0c6f1242a7f49408ef79a4fdbcaf1f915617a6120c57f838aab462d8dcd3f8');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',10,1795167600000.0,'step.started','{"type":"step.started","step":2}','3b0c6f1242a7f49408ef79a4fdbcaf1f915617a6120c57f838aab462d8dcd3f8','98f1f6272966b23faf6ca778569bba7588c037686644e2534725a897a74c07c8');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',11,1.79516760006604150388e+12,'supply','{"type":"supply","volts":12.5415}','98f1f6272966b23faf6ca778569bba7588c037686644e2534725a897a74c07c8','9ed14dabd4ca4fb390f2f01b0653c1217b01af806f193db835bedc4a317b24ac');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',12,1.79516760141519091794e+12,'snapshot','{"type":"snapshot","step":2,"when":"before","snapshot":{"at":1795167601415.191,"source":"link","lines":[{"field":"deviceIdentifier","label":"Device","value":"FS-20"},{"field":"hardware","label":"Hardware","value":"3.2"},{"field":"serial","label":"Serial","value":"FS3-00502"},{"field":"bootloader","label":"Bootloader","value":"1.3"},{"field":"version.main","label":"Main firmware","value":"2.41"},{"field":"buildTime.main","label":"Built","value":"2025-03-04T10:12Z"},{"field":"horn","label":"Horn character","value":"2 blasts every 60 s"},{"field":"supply","label":"Supply","value":"12.54 V"},{"field":"other.0","label":"Other line","value":"fog signal 3.2"}]}}','9ed14dabd4ca4fb390f2f01b0653c1217b01af806f193db835bedc4a317b24ac','cc454a7ebe0dcb748cbb744c03d6a185f451522205effe766a9609efec0c5dd4');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',13,1.79516760141519091794e+12,'findings','{"type":"findings","step":2,"findings":[{"rule":"image-known","level":"go","says":"fs20-main-2.48.hex is an image for the main processor of a Fog-signal controller.","because":"Its identity block says so, whatever the file is called."},{"rule":"device-identifier","level":"go","says":"Unit and image are both FS-20.","because":"Device identifiers are equal."},{"rule":"hardware-major","level":"go","says":"The image is for hardware 3, and so is the unit.","because":"The unit reads 3.2.","numbers":{"imageMajor":3,"unitMajor":3}},{"rule":"protected-ranges","level":"go","says":"It leaves bootloader and horn settings alone.","because":"No byte of it lies in a protected range."},{"rule":"memory-bounds","level":"go","says":"The image lies within the application memory.","because":"262 144 bytes in 262 144 bytes.","numbers":{"imageBytes":262144,"roomBytes":262144}},{"rule":"image-intact","level":"go","says":"The image is whole.","because":"CRC-32 in the image 854E96FF, over its bytes 854E96FF."},{"rule":"test-release","level":"go","says":"It is a production release.","because":"Its identity block says so."},{"rule":"version-direction","level":"go","says":"2.41 to 2.48 is a step forward.","because":"2.48 is newer than 2.41, counting each number between the dots."}]}','cc454a7ebe0dcb748cbb744c03d6a185f451522205effe766a9609efec0c5dd4','28aa3c5d2849a4de174c8983d1c6166ddf5c9cceebb7505d712309c44e6b3a2e');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',14,1.79516760141519091794e+12,'step.done','{"type":"step.done","step":2}','28aa3c5d2849a4de174c8983d1c6166ddf5c9cceebb7505d712309c44e6b3a2e','c325dcce8e52ea91e284073bdfaa3300fc12ecbb2132753fc437e77bb66b1d7e');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',15,1.79516760141519091794e+12,'step.started','{"type":"step.started","step":3}','c325dcce8e52ea91e284073bdfaa3300fc12ecbb2132753fc437e77bb66b1d7e','1b6703637562ea2c2e3447866b295c99d9730a9b5483b8ac3721e1f3c900e7bb');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',16,1.7951676021190974121e+12,'step.done','{"type":"step.done","step":3}','1b6703637562ea2c2e3447866b295c99d9730a9b5483b8ac3721e1f3c900e7bb','376807209e84ef35f93a431622af00323f9d6e188097bb1862c9a66cf6f1ea71');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',17,1.7951676021190974121e+12,'step.started','{"type":"step.started","step":4}','376807209e84ef35f93a431622af00323f9d6e188097bb1862c9a66cf6f1ea71','32be82aeeb11957e40fc64dc328da5e02be0203102aeafe1785fdcace160d2c4');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',18,1.79516760212604174805e+12,'held-against','{"type":"held-against","step":4,"outcome":"different","by":"CRC-32","expected":"771CF714 and 1F19B8F3 over the halves of 262 144 bytes","found":"3CCBFCE7 and 768D19A9 over the halves of 262 144 bytes"}','32be82aeeb11957e40fc64dc328da5e02be0203102aeafe1785fdcace160d2c4','949e8ca3a10acc33f4c7b91ff6cc856a830a90f247f1eb7c27d5cfd5c6d8d991');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',19,1.79516760212604174805e+12,'step.done','{"type":"step.done","step":4}','949e8ca3a10acc33f4c7b91ff6cc856a830a90f247f1eb7c27d5cfd5c6d8d991','74384210fe3b9884eedcb9105a7782be7037596257ff8c87701be91e3e5af736');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',20,1.79516760212604174805e+12,'step.started','{"type":"step.started","step":5}','74384210fe3b9884eedcb9105a7782be7037596257ff8c87701be91e3e5af736','6e1acdad34ea7588fa7c94d7bb869afb93bcfcffdeb5e3912a88abf5a70607a3');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',21,1.79516760219208325191e+12,'supply','{"type":"supply","volts":12.53864}','6e1acdad34ea7588fa7c94d7bb869afb93bcfcffdeb5e3912a88abf5a70607a3','838dde196897d422af835231ccca45a31cf8c4e0f49496bc5b993c3065f40901');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',22,1.7951676022402949219e+12,'progress','{"type":"progress","step":5,"done":1,"total":64,"unit":"sectors","retries":0}','838dde196897d422af835231ccca45a31cf8c4e0f49496bc5b993c3065f40901','2dce5256cc3847d707c28e68d403d3ea0bb474f3770938b957bc23004774f391');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',23,1.79516760225812475586e+12,'supply','{"type":"supply","volts":12.47256}','2dce5256cc3847d707c28e68d403d3ea0bb474f3770938b957bc23004774f391','c48f4942781c0c97853c5ab782702e7fa169131dec6b42dc4740c054978a8977');
INSERT INTO "wake_events" VALUES('run-4t98cgkk',24,1.79516760228642333983e+12,'progress','{"type":"progress","step":5,"done":2,"total":64,"unit":"sectors","retries":0}','c48f4942781c0c97853c5ab782702e7fa169131dec6b42dc4740c054978a8977','02fca90b3eefba0956f58ce06893cafd6125c3e093199c1de1f682c5052d7882');
CREATE INDEX `image_files_by_image` ON `image_files` (`image_id`);
CREATE UNIQUE INDEX `images_contentSha256_unique` ON `images` (`content_sha256`);
CREATE INDEX `runs_by_job` ON `runs` (`job_id`);
CREATE INDEX `runs_by_unit` ON `runs` (`unit_id`);
CREATE INDEX `snapshots_by_unit` ON `snapshots` (`unit_id`);
CREATE INDEX `wake_by_type` ON `wake_events` (`type`);
CREATE INDEX `unit_answers_by_unit` ON `unit_answers` (`unit_id`);
CREATE INDEX `found_causes_by_family` ON `found_causes` (`family_id`);
CREATE UNIQUE INDEX `sessions_secretSha256_unique` ON `sessions` (`secret_sha256`);
CREATE INDEX `job_files_by_job` ON `job_files` (`job_id`);
CREATE INDEX `wake_of_run_by_type` ON `wake_events` (`run_id`,`type`);
CREATE INDEX `case_events_by_case` ON `case_events` (`case_id`);
CREATE INDEX `case_logs_by_case` ON `case_logs` (`case_id`);
DELETE FROM "sqlite_sequence";
INSERT INTO "sqlite_sequence" VALUES('snapshots',3);
INSERT INTO "sqlite_sequence" VALUES('drills',1);
INSERT INTO "sqlite_sequence" VALUES('house_policies',1);
INSERT INTO "sqlite_sequence" VALUES('refusals',1);
INSERT INTO "sqlite_sequence" VALUES('laptop_says',1);
INSERT INTO "sqlite_sequence" VALUES('image_files',1);
