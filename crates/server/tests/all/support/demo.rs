//! The demo in a test's database: it is loaded once for all tests and copied from then on, since loading
//! works out every blade.

use sqlx::postgres::PgPoolOptions;
use sqlx::{AssertSqlSafe, Connection, Executor, PgConnection, PgPool};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::path::PathBuf;

/// How much of the demo.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Demo {
    /// All of it.
    Whole,
    /// What the fire needs: its stations and what is in work.
    InWork,
}

impl Demo {
    fn name(self) -> &'static str {
        match self {
            Self::Whole => "whole",
            Self::InWork => "in_work",
        }
    }

    /// The exchange file of it. Only the whole is a file of the project.
    pub fn file(self) -> PathBuf {
        let whole = super::root().join("demo/brinholm.json");
        if self == Self::Whole {
            return whole;
        }
        let text = std::fs::read_to_string(whole).unwrap();
        let mut file: serde_json::Value = serde_json::from_str(&text).unwrap();
        let blades = file["blades"].as_array_mut().unwrap();
        blades.retain(|b| !b["finished_at"].is_string());
        let path = std::env::temp_dir().join(format!("vatten-in-work-{}.json", std::process::id()));
        std::fs::write(&path, file.to_string()).unwrap();
        path
    }

    /// The name of the database it is copied from: another build or another demo has another.
    fn template(self) -> String {
        let exe = std::fs::metadata(std::env::current_exe().unwrap()).unwrap();
        let demo = std::fs::read(super::root().join("demo/brinholm.json")).unwrap();
        let mut hasher = DefaultHasher::new();
        (exe.modified().unwrap(), exe.len(), demo).hash(&mut hasher);
        format!("vatten_demo_{}_{:016x}", self.name(), hasher.finish())
    }

    /// Makes the database of a test a copy of one with the demo. What the test stored before is gone.
    /// A database that has the demo already is left as it is.
    pub async fn copy_to(self, pool: &PgPool) {
        let known = vatten_store::person::credentials(pool, vatten_server::demo::DEMO_EMAIL).await;
        if known.unwrap().is_some() {
            return;
        }
        let url = std::env::var("DATABASE_URL").unwrap();
        let mut admin = PgConnection::connect(&url).await.unwrap();
        let template = self.template();
        // One fills it, the others wait; the lock ends with the connection.
        admin
            .execute("select pg_advisory_lock(7283001)")
            .await
            .unwrap();
        self.fill(&mut admin, &template).await;
        admin
            .execute("select pg_advisory_unlock(7283001)")
            .await
            .unwrap();
        let own = pool.connect_options().get_database().unwrap().to_owned();
        for sql in [
            format!("drop database \"{own}\" with (force)"),
            format!("create database \"{own}\" template {template}"),
        ] {
            admin.execute(AssertSqlSafe(sql)).await.unwrap();
        }
    }

    async fn fill(self, admin: &mut PgConnection, template: &str) {
        let there: bool =
            sqlx::query_scalar("select exists (select from pg_database where datname = $1)")
                .bind(template)
                .fetch_one(&mut *admin)
                .await
                .unwrap();
        if there {
            return;
        }
        let like = format!("vatten\\_demo\\_{}\\_%", self.name());
        let old: Vec<String> =
            sqlx::query_scalar("select datname from pg_database where datname like $1")
                .bind(like)
                .fetch_all(&mut *admin)
                .await
                .unwrap();
        let filling = format!("{template}_filling");
        for sql in old
            .iter()
            .map(|name| format!("drop database {name} with (force)"))
            .chain([format!("create database {filling}")])
        {
            admin.execute(AssertSqlSafe(sql)).await.unwrap();
        }
        let url = std::env::var("DATABASE_URL").unwrap();
        let options = url
            .parse::<sqlx::postgres::PgConnectOptions>()
            .unwrap()
            .database(&filling);
        let pool = PgPoolOptions::new().connect_with(options).await.unwrap();
        vatten_store::migrate(&pool).await.unwrap();
        let file = self.file();
        assert!(vatten_server::demo::load(&pool, &file).await.unwrap());
        if self == Self::InWork {
            std::fs::remove_file(file).unwrap();
        }
        pool.close().await;
        let sql = format!("alter database {filling} rename to {template}");
        admin.execute(AssertSqlSafe(sql)).await.unwrap();
    }
}
