import { Button, Drawer } from '@mantine/core';
import { Link, useLocation } from 'react-router';
import { setTourStep } from '../tour/useTour';
import { helpAt } from './places';
import { words } from './words';

interface AboutPlaceProps {
  readonly opened: boolean;
  readonly onClose: () => void;
}

/** What the place at hand is for, what to do first, the words it uses, and its keys. */
export function AboutPlace({ opened, onClose }: AboutPlaceProps) {
  const { pathname } = useLocation();
  const { title, about, first, words: used, keys } = helpAt(pathname);
  return (
    <Drawer
      opened={opened}
      onClose={onClose}
      position="right"
      size={420}
      title={`About: ${title}`}
      closeButtonProps={{ 'aria-label': 'Close' }}
      transitionProps={{ duration: 0 }}
      overlayProps={{ backgroundOpacity: 0.2 }}
    >
      <p className="flush">{about}</p>
      <p>
        <strong>First:</strong> {first}
      </p>
      <h3>Keys</h3>
      <table className="grid keys">
        <thead>
          <tr>
            <th>Key</th>
            <th>What it does</th>
          </tr>
        </thead>
        <tbody>
          {keys.map(([pressed, meaning]) => (
            <tr key={`${pressed} ${meaning}`}>
              <td className="nowrap">
                {pressed.split(' ').map((key) => (
                  <kbd key={key}>{key}</kbd>
                ))}
              </td>
              <td>{meaning}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {used.length > 0 && <h3>Words</h3>}
      <dl className="words">
        {used.map((word) => (
          <div key={word}>
            <dt>{word}</dt>
            <dd>{words[word]}</dd>
          </div>
        ))}
      </dl>
      <p>
        <Button
          variant="default"
          onClick={() => {
            onClose();
            setTourStep(0);
          }}
        >
          One change from end to end, in six steps
        </Button>
      </p>
      <p>
        <Link to="/reference" onClick={onClose}>
          All functions, the parts of a rule, the findings and the words
        </Link>
      </p>
    </Drawer>
  );
}
