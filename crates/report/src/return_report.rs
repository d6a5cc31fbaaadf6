//! What became of what an earlier visit recommended, in the report: every line with its pictures of then and now.

use crate::document::picture;
use crate::sources::PictureSource;
use account::{Case, returned};
use envelope::years::again::Became;
use serde_json::{Value, json};

/// Everything the report says of a return visit; null when it is none.
pub(crate) fn return_data(case: &Case, pictures: &dyn PictureSource) -> Value {
    let (Some(kept), Some(account)) = (&case.whole().again, returned(case)) else { return Value::Null };
    let kept = &kept.body;
    let lines: Vec<Value> = kept
        .in_order()
        .into_iter()
        .map(|l| {
            // The earlier visit's picture is kept under its hash; on another machine it may not be there.
            let then = l.then.iter().find_map(|p| {
                let bytes = pictures.bytes(&p.hash)?;
                let extension = if bytes.starts_with(b"\x89PNG") { "png" } else { "jpg" };
                let caption = if p.caption.is_empty() { "Then".to_owned() } else { format!("Then: {}", p.caption) };
                Some(json!({ "path": format!("pictures/{}.{extension}", p.hash), "caption": caption, "alt": caption, "taken": null, "marks": null, "ratio": 1.5 }))
            });
            let now = l.now.as_ref().and_then(|id| {
                let p = case.view().pictures.iter().find(|p| p.id == *id)?;
                picture(p, pictures, &mut vec![])
            });
            json!({
                "number": l.number, "title": l.title, "place": l.place, "step": l.step, "said": l.said.trim(), "by": l.by.trim(),
                "do_not_cover": l.do_not_cover, "became": l.became.map(Became::words), "open": l.became.is_some_and(Became::open),
                "had": !l.then.is_empty(), "then": then, "now": now,
            })
        })
        .collect();
    json!({ "sentence": account.sentence, "why_now": kept.why_now.trim(), "lines": lines, "readings": account.readings, "letter": account.letter })
}
