//! Forms changed at random: taken, or refused in words; never a fault of ours, and the job can still be read.

use super::*;

#[allow(dead_code, reason = "a form is answered later than a closure ends")]
#[path = "../../../core/tests/support/mutated.rs"]
mod random;

#[actix_web::test]
async fn whatever_a_form_says_the_job_stays_one_that_can_be_read() {
    let forms: [(&str, &[&str]); 5] = [
        (
            "choose",
            &[
                "changed=threshold&threshold=45+%25",
                "changed=rim&rim=band&rim_width=1mm",
                "changed=count&count=2",
                "changed=tolerance&tolerance=0.2mm",
                "changed=width&width=40mm",
                "changed=repaint&repaint=%23000000&paint=%23204060",
                "changed=clean&clean={\"op\":\"add\",\"action\":{\"kind\":\"turn\",\"degrees\":7,\"found\":false}}",
            ],
        ),
        (
            "layers",
            &[
                "do=cut&ink=%23000000&value=false",
                "do=pair&lower=%23000000&upper=%23ffffff&meet=stacked&margin=0.5",
                "do=registration-size&value=8",
                "do=bridge-add&ends=1,1,5,5&width=2mm",
                "do=border&value=20mm",
            ],
        ),
        (
            "sheet",
            &[
                "do=copies&value=3",
                "do=gap&value=4mm",
                "do=move&sheet=A&which=0&value=1,2",
                "do=pull&sheet=A&which=0/0&value=first",
            ],
        ),
        (
            "edit",
            &[
                "edit={\"edit\":\"duplicate\",\"items\":[0],\"by\":[5,5]}",
                "edit={\"edit\":\"offset\",\"items\":[0],\"distance\":1.5,\"join\":\"round\",\"under\":null}",
                "edit={\"edit\":\"backing\",\"margin\":3,\"join\":\"round\",\"holes\":false,\"pigment\":{\"ink\":0}}",
            ],
        ),
        ("undo", &[""]),
    ];
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    // As they are, most at every address are taken.
    for (to, samples) in forms {
        let mut taken = 0;
        for sample in samples {
            let revision = store.job(job).unwrap().revision;
            let form = format!("revision={revision}&line=inks&{sample}");
            let path = format!("/jobs/{job}/{to}");
            let (status, _) = post(&app, &path, "mm", form.as_str()).await;
            taken += usize::from(status.is_success());
        }
        assert!(2 * taken >= samples.len(), "{to}: {taken}");
    }
    for seed in 0..random::runs(250) {
        let (to, samples) = forms[seed as usize % forms.len()];
        let samples: Vec<Vec<u8>> = samples.iter().map(|s| s.as_bytes().to_vec()).collect();
        let form = random::mutated(seed, &samples);
        let form = String::from_utf8_lossy(&form).into_owned();
        let revision = store.job(job).unwrap().revision;
        let form = format!("revision={revision}&line=inks&{form}");
        let (status, words) = post(&app, &format!("/jobs/{job}/{to}"), "mm", form.as_str()).await;
        assert!(
            status.is_success() || status.is_client_error(),
            "seed {seed}, {to}: {form}: {status} {words}"
        );
        let recipe = store.step(job).unwrap().recipe;
        assert!(serde_json::from_str::<Recipe>(&recipe).is_ok(), "{form}");
    }
}
