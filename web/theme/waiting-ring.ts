/**
 * The kit draws what is waited for with a moving picture, which takes half a processor from the program that is
 * waited for, hidden too. base.css draws a ring of its own; the picture is held still as that ring begins.
 */
export function holdKitRing(page: Document): void {
  page.addEventListener('animationstart', ({ animationName, target }) => {
    if (animationName !== 'turn' || !(target instanceof Element)) return
    for (const picture of target.querySelectorAll('svg')) picture.pauseAnimations()
  })
}
