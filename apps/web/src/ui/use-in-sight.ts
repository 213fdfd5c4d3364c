import { useEffect, useRef, useState } from 'react';

/** Whether an element has come into sight yet, so that what is costly is made when somebody looks. */
export function useInSight<Of extends Element>(): readonly [React.RefObject<Of | null>, boolean] {
  const element = useRef<Of>(null);
  const [isSeen, see] = useState(false);
  useEffect(() => {
    if (!element.current || isSeen) return undefined;
    const observer = new IntersectionObserver((entries) => {
      if (entries.some(({ isIntersecting }) => isIntersecting)) see(true);
    });
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [isSeen]);
  return [element, isSeen];
}
